import { HexBand } from "../lens/chips";
import type { Item } from "./use-import";

const MOST_CHIPS = 512;

/** The swatches of a file, each of which can be left out. */
export function Found({
  item,
  pointed,
  onPoint,
  onToggle,
  onToggleAll,
}: {
  item: Item;
  pointed: string | null;
  onPoint: (id: string | null) => void;
  onToggle: (id: string) => void;
  onToggleAll: (ids: string[], left: boolean) => void;
}) {
  const { reading, choice, left: leftOut } = item;
  if (!reading) return null;
  const names = new Map(reading.groups.map((group) => [group.id, group.name]));
  return (
    <ul className="m-0 flex list-none flex-wrap gap-x-2 gap-y-2.5 p-0" aria-label="Found swatches">
      {reading.swatches.slice(0, MOST_CHIPS).map((swatch, place) => {
        const left = leftOut.has(swatch.id);
        const doubt = reading.doubts[place];
        const group = swatch.group ? names.get(swatch.group) : null;
        const begins = group && reading.swatches[place - 1]?.group !== swatch.group;
        return (
          <li
            key={swatch.id}
            className={`relative ${reading.groups.length ? "pt-5" : ""} ${begins ? "w-[100px] border-l border-ink pl-2" : "w-[92px]"}`}
          >
            {begins && (
              <GroupToggle
                name={group}
                members={reading.swatches.filter((other) => other.group === swatch.group).map((s) => s.id)}
                left={leftOut}
                disabled={choice.done !== null}
                onToggle={onToggleAll}
              />
            )}
            <button
              type="button"
              aria-pressed={!left}
              aria-label={`${left ? "Take" : "Leave out"} ${swatch.name}${left && doubt ? ` ${swatch.hex}, doubtful` : ""}`}
              title={`${swatch.name} · ${swatch.hex}${left ? ": left out, click to take it" : ": click to leave it out"}${doubt ? ` (${doubt})` : ""}`}
              onPointerEnter={() => onPoint(swatch.id)}
              onPointerLeave={() => onPoint(null)}
              onFocus={() => onPoint(swatch.id)}
              onBlur={() => onPoint(null)}
              disabled={choice.done !== null}
              onClick={() => onToggle(swatch.id)}
              className={`block w-full text-left ${swatch.id === pointed ? "outline-2 outline-ink" : ""}`}
            >
              <span
                className={`block h-10 ${left ? "hatched border border-dashed border-line" : swatch.alpha === 0 ? "checkered" : ""}`}
                style={left || swatch.alpha === 0 ? undefined : { background: swatch.hex }}
              />
              <span
                className={`block truncate text-small ${left ? "text-quiet line-through" : "font-semibold"}`}
              >
                {swatch.name}
              </span>
              {left && doubt && (
                <span className="block truncate text-caption text-quiet">{swatch.hex}, doubtful</span>
              )}
            </button>
          </li>
        );
      })}
      {reading.swatches.length > MOST_CHIPS && (
        <li className="self-end text-small text-quiet">
          and {(reading.swatches.length - MOST_CHIPS).toLocaleString("en")} more
        </li>
      )}
    </ul>
  );
}

/** Ramps of the file, each of which can be left out. */
export function FoundRamps({ item, onToggle }: { item: Item; onToggle: (id: string) => void }) {
  const { reading, choice, left: leftOut } = item;
  if (!reading || reading.ramps.length === 0) return null;
  return (
    <ul
      className="m-0 mb-3 grid list-none grid-cols-[repeat(auto-fill,minmax(220px,1fr))] gap-x-3 gap-y-2.5 p-0"
      aria-label="Found ramps"
    >
      {reading.ramps.map((ramp) => {
        const left = leftOut.has(ramp.id);
        return (
          <li key={ramp.id}>
            <button
              type="button"
              aria-pressed={!left}
              aria-label={`${left ? "Take" : "Leave out"} the ramp ${ramp.name}`}
              disabled={choice.done !== null}
              onClick={() => onToggle(ramp.id)}
              className="block w-full text-left"
            >
              <span className={`flex h-8 ${left ? "hatched border border-dashed border-line" : "checkered"}`}>
                {!left && <HexBand strip={ramp.strip} />}
              </span>
              <span
                className={`block truncate text-small ${left ? "text-quiet line-through" : "font-semibold"}`}
              >
                {ramp.name}
              </span>
            </button>
          </li>
        );
      })}
    </ul>
  );
}

/** The name of a source or group, which leaves out or takes all of it. */
function GroupToggle({
  name,
  members,
  left,
  disabled,
  onToggle,
}: {
  name: string;
  members: string[];
  left: ReadonlySet<string>;
  disabled: boolean;
  onToggle: (ids: string[], left: boolean) => void;
}) {
  const all = members.every((id) => left.has(id));
  return (
    <button
      type="button"
      disabled={disabled}
      aria-label={`${name}: ${all ? "take" : "leave out"} all ${members.length}`}
      title={`${all ? "Take" : "Leave out"} all ${members.length} of ${name}`}
      className={`absolute top-0 left-2 max-w-40 truncate text-caption hover:underline ${all ? "text-quiet line-through" : "font-semibold"}`}
      onClick={() => onToggle(members, !all)}
    >
      {name}
    </button>
  );
}
