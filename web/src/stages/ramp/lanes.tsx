import { useLayoutEffect, useRef, useState } from "react";
import { Button, TextButton } from "../../ui/button";
import { ChoiceWord, PanelWord } from "../../ui/sentence";
import { LaneRow } from "./lane";
import { CurveBox, CurveLine } from "./samples";
import { useRamps } from "./store";
import type { RampWork } from "./use-ramp";

/** Which lanes stand. */
function LaneChooser({ work }: { work: RampWork }) {
  const { setLanes } = useRamps();
  const { lanes, menus } = work;
  const turn = (id: string) => {
    const next = lanes.includes(id) ? lanes.filter((lane) => lane !== id) : [...lanes, id];
    // In the order of the menu, so that the same choice always looks the same.
    setLanes(menus.lanes.map((lane) => lane.id).filter((lane) => next.includes(lane)));
  };
  return (
    <PanelWord label="Lanes" text={`${lanes.length} lanes`} wide>
      <div className="grid grid-cols-2 gap-x-4 gap-y-0.5">
        {menus.lanes.map((lane) => (
          <label key={lane.id} className="flex min-h-6 items-center gap-2 text-small" title={lane.use}>
            <input
              type="checkbox"
              className="accent-ink"
              checked={lanes.includes(lane.id)}
              disabled={lanes.length === 1 && lanes.includes(lane.id)}
              onChange={() => turn(lane.id)}
            />
            {lane.label}
          </label>
        ))}
      </div>
      <p className="mt-2 border-t border-line pt-2 text-small text-quiet">
        Chosen lanes are remembered.{" "}
        <TextButton
          onClick={() => setLanes(menus.lanes.filter((lane) => lane.is_shown).map((lane) => lane.id))}
        >
          The usual five
        </TextButton>
      </p>
    </PanelWord>
  );
}

/** Where along the ramp two lanes differ, and by how much. */
function Difference({ work }: { work: RampWork }) {
  const { compare, setCompare } = useRamps();
  const gaps = work.drawing?.difference ?? [];
  const choices = [
    { id: "own", label: "the ramp as it is", use: "With its curve, spacing and way." },
    ...work.menus.lanes.filter((lane) => work.lanes.includes(lane.id)),
  ];
  if (!compare) return null;
  const worst = Math.max(...gaps, 0);
  const at = gaps.indexOf(worst) / Math.max(gaps.length - 1, 1);
  return (
    <div className="grid grid-cols-[150px_1fr_184px] items-center gap-x-4 border-t border-line pt-1 pr-1">
      <span className="text-small text-quiet">
        differ by up to <b className="font-semibold text-ink">ΔE {worst.toFixed(1)}</b> at {at.toFixed(2)}
      </span>
      <CurveBox className="h-9 w-full border-b border-line">
        {gaps.length > 1 && <CurveLine values={gaps} top={Math.max(worst, 5)} />}
      </CurveBox>
      <span className="text-small leading-6">
        <ChoiceWord
          label="First lane"
          value={compare[0]}
          choices={choices}
          onChange={(id) => setCompare([id, compare[1]])}
        />{" "}
        <ChoiceWord
          label="Second lane"
          value={compare[1]}
          choices={choices}
          onChange={(id) => setCompare([compare[0], id])}
        />
      </span>
    </div>
  );
}

/** The same stops by several ways, one under the other: the muddy middle and the rings are seen, not believed. */
export function LanesView({ work }: { work: RampWork }) {
  const list = useRef<HTMLFieldSetElement>(null);
  const [width, setWidth] = useState(600);
  const [rings, setRings] = useState(false);
  useLayoutEffect(() => {
    const box = list.current;
    if (!box) return;
    const observer = new ResizeObserver(() => setWidth(Math.max(box.clientWidth - 366, 100)));
    observer.observe(box);
    return () => observer.disconnect();
  }, []);
  const { drawing, state, revise, set, edit } = work;
  const { compare, setCompare } = useRamps();
  if (!drawing) return null;
  return (
    <div className="flex min-h-0 grow flex-col">
      <div className="flex min-h-0 grow flex-col overflow-y-auto pt-1 pr-1 pb-1">
        <fieldset
          ref={list}
          className="m-0 grid min-h-0 grow gap-2.5 border-0 p-0"
          style={{
            gridTemplateRows: `repeat(${drawing.lanes.length}, minmax(54px, 1fr))`,
            maxHeight: drawing.lanes.length * 104,
          }}
        >
          <legend className="sr-only">Lanes: choose the one to take</legend>
          {drawing.lanes.map((lane) => (
            <LaneRow
              key={lane.id}
              lane={lane}
              drawn={state.drawn}
              chosen={lane.id === drawing.own.id}
              width={width}
              rings={rings}
              onChoose={() => revise({ space: lane.space, hue: lane.hue })}
              onPress={(share) => void edit("add", { share })}
            />
          ))}
        </fieldset>
      </div>
      <Difference work={work} />
      <div className="flex min-h-9 shrink-0 flex-wrap items-center gap-x-4 pt-1 text-small whitespace-nowrap">
        <LaneChooser work={work} />
        <Button
          aria-pressed={state.drawn === "stepped"}
          className="aria-pressed:bg-ink aria-pressed:text-ground"
          disabled={work.recipe.steps === null}
          onClick={() => set({ drawn: state.drawn === "stepped" ? "continuous" : "stepped" })}
        >
          In steps
        </Button>
        <Button
          aria-pressed={rings}
          className="aria-pressed:bg-ink aria-pressed:text-ground"
          title="Mark both edges of every band that is wide enough to show as a ring"
          onClick={() => setRings(!rings)}
        >
          Mark rings
        </Button>
        <span className="text-quiet">line: lightness · dashes: chroma · hatched foot: outside sRGB</span>
        <span className="grow" />
        <TextButton
          aria-pressed={compare !== null}
          onClick={() =>
            setCompare(
              compare ? null : ["own", work.lanes.find((lane) => lane !== work.drawing?.own.id) ?? "own"],
            )
          }
        >
          {compare ? "Without the difference" : "Difference of two lanes"}
        </TextButton>
      </div>
    </div>
  );
}
