import { useQuery } from "@tanstack/react-query";
import { ask } from "../api/queries";
import { TextButton } from "../ui/button";
import { ActionPanel } from "../ui/sentence";
import { Slider } from "../ui/slider";
import { useLensStore } from "./lens";

const KINDS = [
  { id: "eye", label: "Eyes" },
  { id: "screen", label: "Screens" },
  { id: "paper", label: "Paper" },
];

/** Chooses the lens, beside the surround. While one is on, the word is filled and says which. */
export function LensSwitch() {
  const menus = useQuery(ask.checkMenus()).data;
  const { lens, choose } = useLensStore();
  const current = menus?.lenses.find((entry) => entry.id === lens?.id);
  const amount = lens?.amount == null ? "" : ` ${lens.amount}`;
  const on = "max-w-44 truncate bg-ink text-ground px-2 hover:no-underline";
  return (
    <ActionPanel
      label={lens ? `Lens: ${lens.label}${amount}` : "Lens"}
      {...(lens ? { className: on } : {})}
      mark="lens"
    >
      {() => (
        <div className="w-[300px]">
          <p className="mb-2 text-small text-quiet">
            See your colors as others would. Nothing that is kept or exported changes.
          </p>
          <label className="flex min-h-7 items-center gap-2 text-small font-semibold">
            <input
              type="radio"
              name="lens"
              className="accent-ink"
              checked={lens === null}
              onChange={() => choose(null)}
            />
            no lens
          </label>
          {KINDS.map((kind) => (
            <fieldset key={kind.id} className="m-0 mt-1 border-0 border-t border-line p-0 pt-1">
              <legend className="float-left w-full text-caption font-semibold text-quiet">
                {kind.label}
              </legend>
              {menus?.lenses
                .filter((entry) => entry.kind === kind.id)
                .map((entry) => (
                  <label
                    key={entry.id}
                    className="flex min-h-6 clear-both items-center gap-2 text-small"
                    title={entry.use}
                  >
                    <input
                      type="radio"
                      name="lens"
                      className="accent-ink"
                      checked={lens?.id === entry.id}
                      onChange={() =>
                        choose({ id: entry.id, label: entry.label, amount: entry.amount?.usual ?? null })
                      }
                    />
                    {entry.label}
                  </label>
                ))}
            </fieldset>
          ))}
          {current?.amount && lens && (
            <div className="mt-2 border-t border-line pt-2">
              <div className="flex justify-between text-small">
                <span>{current.amount.label}</span>
                <span className="font-semibold">
                  {lens.amount} {current.amount.unit}
                </span>
              </div>
              <Slider
                label={`${current.label}: ${current.amount.label}`}
                value={lens.amount ?? current.amount.usual}
                min={current.amount.low}
                max={current.amount.high}
                step={1}
                onChange={(next) => choose({ ...lens, amount: next })}
              />
            </div>
          )}
          {current && (
            <p className="mt-2 text-small text-quiet">
              {current.use}
              {current.is_estimate && " An estimate: devices differ."}
            </p>
          )}
          {lens && <TextButton onClick={() => choose(null)}>Take the lens off</TextButton>}
        </div>
      )}
    </ActionPanel>
  );
}
