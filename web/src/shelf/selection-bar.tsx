import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { type CardKind, startBatch } from "../api/commands";
import { useMenusAsked } from "../api/palette";
import { ask, KEYS } from "../api/queries";
import type { Recipe } from "../api/types";
import { inWords } from "../api/words";
import { proofLabel } from "../picture/proofs";
import { useScreen } from "../shell/store";
import { Button, TextButton } from "../ui/button";
import { ChoiceWord } from "../ui/sentence";
import { useSelection } from "./selection";
import { useTrash } from "./use-trash";

const USUAL = "usual";

/** The ids of those of a kind. */
export function ofKind(chosen: ReadonlySet<string> | null, kind: CardKind) {
  return [...(chosen ?? [])]
    .filter((key) => key.startsWith(`${kind}/`))
    .map((key) => key.slice(kind.length + 1));
}

/** What can be done with the selected cards. sought : what is looked for, which “All” is all of. */
export function SelectionBar({ sought, trash }: { sought: string; trash: boolean }) {
  const { chosen, choose, end } = useSelection();
  const menus = useMenusAsked();
  const queries = useQueryClient();
  const say = useScreen((screen) => screen.say);
  const { many } = useTrash();
  const [recipe, setRecipe] = useState(USUAL);
  const [isMoving, setMoving] = useState(false);
  const kept = useQuery(ask.recipes());
  const chosenPictures = ofKind(chosen, "pictures");
  const chosenPalettes = ofKind(chosen, "palettes");
  const count = chosenPictures.length + chosenPalettes.length;
  const said = [
    chosenPictures.length
      ? `${chosenPictures.length} ${chosenPictures.length === 1 ? "picture" : "pictures"}`
      : "",
    chosenPalettes.length
      ? `${chosenPalettes.length} ${chosenPalettes.length === 1 ? "palette" : "palettes"}`
      : "",
  ].filter(Boolean);
  const chooseAll = async () => {
    try {
      const found = await queries.fetchQuery(ask.foundIds(sought, trash));
      choose([
        ...found.pictures.map((id) => `pictures/${id}`),
        ...found.palettes.map((id) => `palettes/${id}`),
      ]);
    } catch (error) {
      say(inWords(error), { kind: "wrong" });
    }
  };
  const reduce = async () => {
    const entry = kept.data?.find((candidate) => candidate.id === recipe);
    try {
      await startBatch({
        pictures: chosenPictures,
        recipe: (entry?.recipe ?? {}) as Recipe,
        name: entry?.name ?? "",
      });
      await queries.invalidateQueries({ queryKey: KEYS.jobs });
      end();
    } catch (error) {
      say(inWords(error), { kind: "wrong" });
    }
  };
  const move = async () => {
    setMoving(true);
    const cards = [
      ...chosenPictures.map((id) => ["pictures", id] as const),
      ...chosenPalettes.map((id) => ["palettes", id] as const),
    ];
    // What has not gone stays selected.
    if (await many(cards, said.join(" and "), trash)) end();
    setMoving(false);
  };
  const choices = [
    { id: USUAL, label: "24 colors, as usual", use: "Perceptual split, not dithered." },
    ...(kept.data ?? []).map((entry) => ({
      id: entry.id,
      label: `“${entry.name}”`,
      use: menus.data ? proofLabel(entry.recipe as Recipe, menus.data) : "",
    })),
  ];
  return (
    <section
      aria-label="Selection"
      className="flex min-h-12 shrink-0 flex-wrap items-center gap-x-3 gap-y-1 border-b border-line bg-panel px-6 py-1.5"
    >
      <span role="status" className="font-semibold">
        {said.length ? `${said.join(" and ")} selected` : "Click what you want to select"}
      </span>
      <TextButton onClick={() => void chooseAll()}>All</TextButton>
      <TextButton disabled={count === 0} onClick={() => choose([])}>
        None
      </TextButton>
      <span className="grow" />
      {!trash && chosenPictures.length > 0 && (
        <span className="flex items-center gap-2 text-label">
          Reduce {chosenPictures.length === 1 ? "it" : "them"} to{" "}
          <ChoiceWord label="Recipe of the batch" value={recipe} choices={choices} onChange={setRecipe} />
          <Button primary onClick={() => void reduce()}>
            Start
          </Button>
        </span>
      )}
      <Button disabled={count === 0 || isMoving} onClick={() => void move()}>
        {trash ? "Put back" : "Trash"}
      </Button>
      <Button onClick={end}>Done</Button>
    </section>
  );
}
