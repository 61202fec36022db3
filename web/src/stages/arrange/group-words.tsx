import { useCommands, useGroups, useShown } from "../../bench/context";
import { useScreen } from "../../shell/store";
import { TextButton } from "../../ui/button";
import { NameField } from "../../ui/name-field";

/** The heading of a group: its name, and what can be done with it as a whole. */
export function GroupWords({ group, withColumns }: { group: string; withColumns?: boolean }) {
  const shown = useShown();
  const groups = useGroups();
  const { operate } = useCommands();
  const select = useScreen((screen) => screen.select);
  const place = groups.findIndex((entry) => entry.id === group);
  const entry = groups[place];
  if (!entry) return null;
  const move = (to: number) => void operate({ kind: "move_group", id: group, to });
  return (
    <span className="flex items-center gap-1">
      <NameField
        label={`Name of the group ${entry.name}`}
        value={entry.name}
        onRename={(name) => void operate({ kind: "rename_group", id: group, name })}
        className="field-sizing-content max-w-80 min-w-16 font-semibold"
      />
      <TextButton
        className="text-quiet"
        onClick={() => select(shown.filter((other) => other.group === group).map((other) => other.id))}
      >
        Select
      </TextButton>
      <TextButton
        className="text-quiet"
        aria-label={`Move the group ${entry.name} forward`}
        title="Before the group in front of it"
        disabled={place === 0}
        onClick={() => move(place - 1)}
      >
        ↑
      </TextButton>
      <TextButton
        className="text-quiet"
        aria-label={`Move the group ${entry.name} back`}
        title="Behind the next group"
        disabled={place === groups.length - 1}
        onClick={() => move(place + 1)}
      >
        ↓
      </TextButton>
      {withColumns && (
        <Columns
          label={`Columns of the group ${entry.name}`}
          value={entry.columns ?? null}
          onSet={(columns) => void operate({ kind: "set_columns", group, columns })}
        />
      )}
      <TextButton
        className="text-quiet"
        aria-label={`Dissolve the group ${entry.name}`}
        onClick={() => void operate({ kind: "dissolve_group", id: group })}
      >
        Dissolve
      </TextButton>
    </span>
  );
}

/** How many swatches stand in a row; empty leaves it open. */
export function Columns({
  label,
  value,
  onSet,
}: {
  label: string;
  value: number | null;
  onSet: (columns: number | null) => void;
}) {
  return (
    <label className="ml-1 flex items-center gap-1 text-small text-quiet">
      <input
        type="number"
        aria-label={label}
        min={1}
        max={256}
        value={value ?? ""}
        placeholder="–"
        className="w-11 border-b border-line bg-transparent text-right text-ink"
        onChange={(event) => {
          const typed = Math.round(Number(event.target.value));
          if (event.target.value === "") onSet(null);
          else if (typed >= 1 && typed <= 256) onSet(typed);
        }}
      />
      columns
    </label>
  );
}
