import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";
import { navigate } from "wouter/use-browser-location";
import { beginPalette } from "../../api/commands";
import { isJob } from "../../api/jobs";
import { KEYS } from "../../api/queries";
import type { RampRecipe, Recipe } from "../../api/types";
import { inWords } from "../../api/words";
import {
  useCommands,
  useDrafted,
  useDraftProblem,
  useMenus,
  usePalette,
  usePreview,
  useShown,
} from "../../bench/context";
import { DraftBar, Figure } from "../../bench/draft-bar";
import { PictureWord, usePictures } from "../../bench/picture-word";
import { useRegions } from "../../bench/use-regions";
import { PictureArea } from "../../picture/picture-area";
import { useOriginal, usePainted } from "../../picture/use-painted";
import { useScreen } from "../../shell/store";
import { Button } from "../../ui/button";
import { ChoiceWord } from "../../ui/sentence";
import { bytesOf } from "./samples";
import type { RampWork } from "./use-ramp";

const MOST = 256;

/** The codes of steps that came as bytes. */
export function hexesOf(rgba: string): string[] {
  const bytes = bytesOf(rgba);
  const codes: string[] = [];
  for (let place = 0; place + 2 < bytes.length; place += 4) {
    const code = Array.from(bytes.slice(place, place + 3), (value) => value.toString(16).padStart(2, "0"));
    codes.push(`#${code.join("")}`);
  }
  return codes;
}

/** A picture in the colors of the ramp: its lightness chooses them. Kept as a reduction to the ramp's steps. */
export function ToneView({ work }: { work: RampWork }) {
  const palette = usePalette();
  const shown = useShown();
  const menus = useMenus();
  const preview = usePreview();
  const problem = useDraftProblem();
  const draft = useDrafted();
  const { setDraft, discard } = useCommands();
  const say = useScreen((screen) => screen.say);
  const queries = useQueryClient();
  const { pictures, field, picture, choose } = usePictures();
  const [dither, setDither] = useState("none");
  const { recipe, drawing, revise } = work;
  const steps = recipe.steps ?? null;
  const toning = useMemo((): Recipe | null => {
    if (!drawing || steps === null || steps > MOST) return null;
    const tone: RampRecipe = {
      ...recipe,
      // With a dither between the steps the picture is toned by every shade; without, by the steps themselves.
      steps: dither === "none" ? steps : null,
      stops: recipe.stops.map((stop, place) => ({
        ...stop,
        swatch: null,
        text: null,
        color: drawing.stops[place]?.color ?? null,
      })),
    };
    const listed = [...new Set(hexesOf(drawing.own.steps))];
    // The server fills in what is not said.
    return {
      kind: "reduce",
      colors: listed.length,
      chooser: "fixed-list",
      listed,
      list_name: "the ramp's steps",
      dither,
      order: "lightness",
      tone,
    } as Partial<Recipe> as Recipe;
  }, [drawing, recipe, steps, dither]);
  const said = picture && toning ? JSON.stringify([picture.id, toning]) : "";
  // biome-ignore lint/correctness/useExhaustiveDependencies: the text stands for picture and recipe
  useEffect(() => {
    if (picture && toning) setDraft({ kind: "reduce", picture: picture.id, recipe: toning });
  }, [said, setDraft]);
  // A toned picture that is not kept goes with the view.
  useEffect(() => discard, [discard]);
  const original = useOriginal(picture?.id);
  const link = palette.links.find((entry) => entry.picture.id === picture?.id);
  const { painted, source } = usePainted(
    palette.id,
    link,
    preview?.kind === "reduce" ? preview : null,
    shown,
  );
  const proposed = preview?.kind === "reduce";
  const regions = useRegions(proposed ? source : null);
  const asOwn = async () => {
    if (!picture || !toning) return;
    try {
      const answer = await beginPalette(picture.id, toning);
      await queries.invalidateQueries({ queryKey: KEYS.shelf });
      if (isJob(answer)) say("It is being painted at full size; it will stand on the shelf.");
      else
        say(`“${answer.name}” is a palette of its own now.`, {
          action: { label: "Open it", run: () => navigate(`/palettes/${answer.id}`) },
        });
    } catch (error) {
      say(inWords(error), { kind: "wrong" });
    }
  };
  if (!picture)
    return <p className="text-quiet">There is no picture on the shelf yet. Drop one anywhere to tone it.</p>;
  return (
    <div className="flex min-h-0 grow flex-col">
      <p className="text-sentence leading-[2]">
        Tone <PictureWord pictures={pictures} field={field} picture={picture} onChoose={choose} /> by
        lightness, dithered{" "}
        <ChoiceWord
          label="Dither of the toned picture"
          value={dither}
          choices={menus.dithers}
          onChange={setDither}
        />
        .
      </p>
      {steps === null ? (
        <p className="flex items-center gap-3 text-small text-quiet">
          A toned picture is kept in steps, so that it is indexed.
          <Button onClick={() => revise({ steps: 16 })}>In 16 steps</Button>
        </p>
      ) : steps > MOST ? (
        <p role="alert" className="text-small">
          An indexed picture holds {MOST} colors; the ramp has {steps.toLocaleString("en")} steps.
        </p>
      ) : (
        <DraftBar label="Keep in this palette" canKeep={proposed && draft?.kind === "reduce"}>
          {preview?.kind === "reduce" && (
            <Figure name="colors" value={preview.proposal.figures.used} title="That the toned picture uses" />
          )}
          <Button disabled={!toning} onClick={() => void asOwn()}>
            Keep as a palette of its own
          </Button>
        </DraftBar>
      )}
      {problem && (
        <p role="alert" className="mb-1 border-l-4 border-ink pl-3">
          {problem}
        </p>
      )}
      <div className="flex min-h-0 grow">
        <PictureArea
          name={picture.name}
          width={picture.width}
          height={picture.height}
          original={original}
          result={proposed ? (painted?.canvas ?? null) : null}
          resultCopies={proposed ? painted?.copies : undefined}
          version={painted?.version ?? 0}
          sides={["original", "toned"]}
          regions={regions}
        />
      </div>
    </div>
  );
}
