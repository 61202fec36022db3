import { useQuery } from "@tanstack/react-query";
import { navigate } from "wouter/use-browser-location";
import { ask } from "../api/queries";
import type { Use } from "../api/types";
import { HexBand } from "../lens/chips";
import { ActionPanel } from "../ui/sentence";

export type Kind = "pictures" | "palettes" | "ramps";

/** How a palette leads to something, where that is not plainly its present state. */
export function howUsed(use: Use): string {
  const parts = [];
  if (!use.is_present) parts.push(`only earlier, last at step ${use.last_step}`);
  if (use.is_in_trash) parts.push("in the trash");
  return parts.join("; ");
}

function UseEntry({ use, strip }: { use: Use; strip: string | undefined }) {
  const how = howUsed(use);
  return (
    <button
      type="button"
      className="block w-full text-left outline-offset-2 disabled:cursor-default"
      disabled={use.is_in_trash}
      onClick={() => navigate(`/palettes/${use.palette}`)}
    >
      <span className={`flex h-5 ${strip ? "" : "hatched"} ${use.is_present ? "" : "opacity-60"}`}>
        {strip && <HexBand strip={strip} />}
      </span>
      <span className="block truncate text-small">
        {use.name}
        {how && <span className="text-quiet"> · {how}</span>}
      </span>
    </button>
  );
}

function UseList({ kind, id, name }: { kind: Kind; id: string; name: string }) {
  const uses = useQuery(ask.uses(kind, id));
  const cards = useQuery(
    ask.named(
      "palettes",
      (uses.data ?? []).map((use) => use.palette),
    ),
  );
  const strips = new Map((cards.data ?? []).map((card) => [card.id, card.strip]));
  if (uses.error)
    return (
      <p role="alert" className="m-0 text-small">
        {uses.error.message}
      </p>
    );
  if (!uses.data)
    return (
      <p role="status" className="m-0 text-small text-quiet">
        Looking …
      </p>
    );
  if (uses.data.length === 0)
    return <p className="m-0 text-small text-quiet">No palette uses “{name}”, now or in its history.</p>;
  return (
    <>
      <p className="mb-1.5 text-small text-quiet">“{name}” is used in</p>
      <ul
        aria-label="Palettes that use it"
        className="m-0 grid max-h-80 list-none gap-2 overflow-y-auto p-0.5"
      >
        {uses.data.map((use) => (
          <li key={use.palette}>
            <UseEntry use={use} strip={strips.get(use.palette)} />
          </li>
        ))}
      </ul>
    </>
  );
}

/** Where a picture, a palette or a kept ramp is used: the palettes that lead to it, as the strips they are. */
export function Uses({ kind, id, name }: { kind: Kind; id: string; name: string }) {
  return (
    <ActionPanel label="Uses" about={`Uses of ${name}`} className="text-quiet">
      {() => <UseList kind={kind} id={id} name={name} />}
    </ActionPanel>
  );
}
