import { Lock } from "lucide-react";
import { useState } from "react";
import type { Swatch } from "../../api/types";
import { useLinked, useMenus, usePalette } from "../../bench/context";
import { DraftBar, Figure } from "../../bench/draft-bar";
import { useDraft } from "../../bench/use-draft";
import { useLens } from "../../lens/lens";
import { Patch } from "../../lens/patch";
import { useScreen } from "../../shell/store";
import { textOn } from "../../ui/css-color";
import { ChoiceWord, NumberWord, Sentence } from "../../ui/sentence";
import { BeforeAndAfter } from "./before-after";
import { MergeTree } from "./merge-tree";

const USUAL = 4;
const HOW_FAR = [
  { id: "tolerance", label: "within", use: "Everything closer than a tolerance becomes one." },
  { id: "count", label: "until", use: "The nearest join until exactly so many are left." },
];

interface Stack {
  survivor: Swatch;
  gone: Swatch[];
}

/** Who would take over from whom, by survivor in strip order. */
export function stacksOf(
  before: Swatch[],
  after: Swatch[],
  successors: Readonly<Record<string, string>>,
): Stack[] {
  const gone = new Map<string, Swatch[]>();
  for (const swatch of before) {
    const heir = successors[swatch.id];
    if (heir) gone.set(heir, [...(gone.get(heir) ?? []), swatch]);
  }
  return after.flatMap((survivor) => {
    const members = gone.get(survivor.id);
    return members ? [{ survivor, gone: members }] : [];
  });
}

function StackCard({ stack, before }: { stack: Stack; before: Map<string, number> }) {
  const lens = useLens();
  const hover = useScreen((screen) => screen.hover);
  const { survivor, gone } = stack;
  return (
    <li
      className="relative w-[120px]"
      onPointerEnter={() => hover(survivor.id)}
      onPointerLeave={() => hover(null)}
    >
      <div className="relative" style={{ paddingTop: Math.min(gone.length, 6) * 9 }}>
        {gone.slice(0, 6).map((swatch, place) => (
          <span
            key={swatch.id}
            title={`${before.get(swatch.id)} · ${swatch.name} · ${swatch.hex}: would go`}
            className="absolute inset-x-0 h-12 border-b-2 border-ground"
            style={{
              top: place * 9,
              background: lens.css(swatch.hex),
              left: (Math.min(gone.length, 6) - place) * 4,
              right: (Math.min(gone.length, 6) - place) * 4,
            }}
          />
        ))}
        <Patch
          title={`${survivor.name} · ${survivor.hex}: stays`}
          className={`relative flex h-12 items-start justify-end p-1 ${survivor.alpha === 0 ? "checkered" : ""}`}
          color={survivor.alpha === 0 ? null : survivor.hex}
        >
          {survivor.locked && <Lock size={13} aria-label="Locked" color={textOn(survivor.hex)} />}
        </Patch>
      </div>
      <span className="mt-1 block truncate text-small font-semibold" title={survivor.name}>
        {survivor.name}
      </span>
      <span
        className="block truncate text-small text-quiet"
        title={gone.map((swatch) => swatch.name).join(", ")}
      >
        for {gone.length === 1 ? gone[0]?.name : `${gone.length} others`}
      </span>
    </li>
  );
}

/** Merge what nobody can tell apart: stacks, the picture before and after, and how many are left. */
export function TwinsView() {
  const palette = usePalette();
  const link = useLinked();
  const menus = useMenus();
  const selected = useScreen((screen) => screen.selected);
  const [among, setAmong] = useState("all");
  const [how, setHow] = useState("tolerance");
  const [tenths, setTenths] = useState(USUAL * 10);
  const [count, setCount] = useState(Math.max(1, Math.round(palette.swatches.length / 2)));
  const [keep, setKeep] = useState(menus.merge_rules[0]?.id ?? "most-used");
  const ids = among === "selected" && selected.length > 1 ? selected : null;
  const { length: there } = ids ?? palette.swatches;
  // So few are there that nothing is to be done: that is said, and not asked for.
  const isDone = how === "count" && count >= there;
  const wish = JSON.stringify([ids, how, how === "count" ? count : tenths, keep]);
  const { proposal, problem } = useDraft({
    operation: isDone
      ? null
      : how === "count"
        ? { kind: "merge_to_count", ids, count, keep }
        : { kind: "merge_near_twins", ids, tolerance: tenths / 10, keep },
    said: wish,
  });
  const stacks = proposal ? stacksOf(palette.swatches, proposal.swatches, proposal.successors) : [];
  const places = new Map(palette.swatches.map((swatch, place) => [swatch.id, place]));
  const left = proposal?.swatches.length ?? palette.swatches.length;
  return (
    <>
      <Sentence label="Recipe of the merge">
        Merge near twins among{" "}
        <ChoiceWord
          label="What is merged"
          value={ids ? "selected" : "all"}
          choices={[
            { id: "all", label: "all swatches", use: "Locked swatches always survive." },
            { id: "selected", label: `${selected.length} selected`, use: "Select two or more in the strip." },
          ]}
          onChange={setAmong}
        />{" "}
        <ChoiceWord label="How far" value={how} choices={HOW_FAR} onChange={setHow} />{" "}
        {how === "count" ? (
          <NumberWord
            label="Swatches left"
            value={count}
            min={1}
            max={Math.max(1, (ids ?? palette.swatches).length - 1)}
            unit={(left) => (left === 1 ? "is left" : "are left")}
            hint="The nearest twins join first, until exactly so many are left."
            onChange={setCount}
          />
        ) : (
          <NumberWord
            label="Tolerance"
            value={tenths}
            min={0}
            max={200}
            scale={10}
            unit={() => (tenths === 0 ? "ΔE, exact twins" : "ΔE")}
            hint="0 joins exact twins alone. Closer than 2 is hard to tell apart side by side; 5 is plain to see. No two members of a stack differ by more."
            onChange={setTenths}
          />
        )}
        , keeping{" "}
        <ChoiceWord label="Who survives" value={keep} choices={menus.merge_rules} onChange={setKeep} />.
      </Sentence>
      <DraftBar canKeep={Boolean(proposal?.changes)} label={`Merge to ${left}`}>
        {problem ? (
          <span role="alert" className="font-semibold text-ink">
            {problem}
          </span>
        ) : (
          <>
            <Figure name="left" value={`${left} of ${palette.swatches.length}`} />
            <Figure name="stacks" value={stacks.length} />
            {proposal?.change_mean !== null && proposal?.change_mean !== undefined && (
              <Figure
                name="picture changes by"
                value={`ΔE ${proposal.change_mean.toFixed(2)}, at most ${proposal.change_max?.toFixed(1) ?? "–"}`}
                title="Mean and largest color difference over the linked picture's pixels"
              />
            )}
          </>
        )}
      </DraftBar>
      <div className={`grid min-h-0 grow gap-5 ${link ? "grid-cols-[minmax(0,5fr)_minmax(0,6fr)]" : ""}`}>
        <div className="min-h-0 overflow-auto">
          {how === "tolerance" && (
            <MergeTree
              ids={ids}
              tolerance={tenths / 10}
              onTolerance={(tolerance) => setTenths(Math.round(tolerance * 10))}
            />
          )}
          {stacks.length === 0 ? (
            <p className="text-quiet">
              {isDone
                ? `${there === 1 ? "There is one swatch" : `There are ${there} swatches`}, no more than are to be left.`
                : proposal
                  ? "No two swatches are that close. Raise the tolerance."
                  : problem
                    ? "Nothing can be merged so."
                    : "Looking for near twins …"}
            </p>
          ) : (
            <ul className="m-0 flex list-none flex-wrap gap-x-5 gap-y-5 p-0" aria-label="Stacks">
              {stacks.slice(0, 200).map((stack) => (
                <StackCard key={stack.survivor.id} stack={stack} before={places} />
              ))}
            </ul>
          )}
        </div>
        {link && (
          <div className="flex min-h-0 flex-col">
            <BeforeAndAfter />
          </div>
        )}
      </div>
    </>
  );
}
