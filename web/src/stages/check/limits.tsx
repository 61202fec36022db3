import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { keepLimits, removeLimits } from "../../api/commands";
import { ask, KEYS } from "../../api/queries";
import { inWords } from "../../api/words";
import { type Limits, useChecks } from "../../bench/checks";
import { useCommands, usePalette } from "../../bench/context";
import { useScreen } from "../../shell/store";
import { Button, TextButton } from "../../ui/button";
import { ActionPanel } from "../../ui/sentence";

/** Limits without those that are as usual: what is kept. */
export function isSame(first: Limits, second: Limits) {
  const said = (limits: Limits) =>
    JSON.stringify(
      Object.entries(limits)
        .filter(([, held]) => Object.keys(held).length > 0)
        .map(([check, held]) => [check, Object.entries(held).sort()])
        .sort(),
    );
  return said(first) === said(second);
}

/** Named sets of limits: taken, kept, and taken away. */
function Sets({ close }: { close: () => void }) {
  const palette = usePalette();
  const { operate } = useCommands();
  const { limits, set } = useChecks();
  const say = useScreen((screen) => screen.say);
  const queries = useQueryClient();
  const [name, setName] = useState("");
  const sets = useQuery(ask.limitSets());
  const held = limits ?? palette.limits;
  const again = () => void queries.invalidateQueries({ queryKey: KEYS.limits });
  const take = async (taken: Limits, source: string) => {
    close();
    set({ limits: null });
    await operate({ kind: "set_limits", limits: taken, source });
  };
  const keep = async () => {
    try {
      await keepLimits(name, held);
      again();
      setName("");
      say(`The limits are on the shelf as “${name}”. Any palette can go by them.`);
    } catch (error) {
      say(inWords(error), { kind: "wrong" });
    }
  };
  return (
    <div>
      <p className="mb-1 text-small text-quiet">Limits of all checks, to go by on any palette.</p>
      <ul aria-label="Named limits" className="m-0 grid list-none gap-0.5 p-0">
        {sets.data?.map((entry) => (
          <li key={entry.id} className="flex items-center">
            <TextButton
              className="min-w-0 grow truncate text-left"
              onClick={() => void take(entry.limits, entry.name)}
            >
              {entry.name}
            </TextButton>
            <TextButton
              aria-label={`Take “${entry.name}” off the shelf`}
              title="Take off the shelf; palettes that go by it keep their own copy"
              onClick={async () => {
                try {
                  await removeLimits(entry.id);
                } catch (error) {
                  say(inWords(error), { kind: "wrong" });
                }
                again();
              }}
            >
              ✕
            </TextButton>
          </li>
        ))}
      </ul>
      {sets.data?.length === 0 && <p className="text-small text-quiet">None is kept yet.</p>}
      <form
        className="mt-2 flex gap-2 border-t border-line pt-2"
        onSubmit={(event) => {
          event.preventDefault();
          void keep();
        }}
      >
        <input
          aria-label="Name for these limits"
          placeholder="name for these limits"
          value={name}
          onChange={(event) => setName(event.target.value)}
          onKeyDown={(event) => event.key !== "Escape" && event.stopPropagation()}
          className="min-w-0 grow rounded border border-ink bg-ground px-2 text-small"
        />
        <Button type="submit" disabled={name.trim() === ""}>
          Keep
        </Button>
      </form>
      {Object.keys(palette.limits).length > 0 && (
        <TextButton onClick={() => void take({}, "")}>All as usual again</TextButton>
      )}
    </div>
  );
}

/** Limits that are tried out: kept with the palette, or put back. */
export function TriedLimits() {
  const palette = usePalette();
  const { operate } = useCommands();
  const { limits, set } = useChecks();
  if (limits === null || isSame(limits, palette.limits)) return null;
  return (
    <span className="flex items-center gap-1">
      <TextButton onClick={() => set({ limits: null })}>As kept</TextButton>
      <Button
        onClick={async () => {
          if (await operate({ kind: "set_limits", limits, source: "" })) set({ limits: null });
        }}
      >
        Keep limits
      </Button>
    </span>
  );
}

/** Named sets, to go by on any palette. */
export function LimitSets() {
  return <ActionPanel label="Sets of limits …">{(close) => <Sets close={close} />}</ActionPanel>;
}
