import { useQuery } from "@tanstack/react-query";
import { Fragment } from "react";
import { ask } from "../api/queries";
import type { LensChoice } from "../api/types";
import { TextButton } from "../ui/button";
import { ActionPanel } from "../ui/sentence";
import { Slider } from "../ui/slider";
import { useLensStore } from "./lens";

const KINDS = [
  { id: "eye", label: "Eyes" },
  { id: "screen", label: "Screens" },
  { id: "paper", label: "Paper" },
];

/** How strong the chosen lens is, and what it does. */
function Chosen({ entry, amount }: { entry: LensChoice; amount: number | null }) {
  const { lens, choose } = useLensStore();
  return (
    <div className="mb-1 pl-6">
      <p className="text-small text-quiet">
        {entry.use}
        {entry.is_estimate && " An estimate: devices differ."}
      </p>
      {entry.amount && lens && (
        <>
          <div className="flex justify-between text-small">
            <span>{entry.amount.label}</span>
            <span className="font-semibold">
              {amount} {entry.amount.unit}
            </span>
          </div>
          <Slider
            label={`${entry.label}: ${entry.amount.label}`}
            value={amount ?? entry.amount.usual}
            min={entry.amount.low}
            max={entry.amount.high}
            step={1}
            onChange={(next) => choose({ ...lens, amount: next })}
          />
        </>
      )}
    </div>
  );
}

/** Chooses the lens, beside the surround. While one is on, the word is filled and says which. */
export function LensSwitch() {
  const menus = useQuery(ask.checkMenus()).data;
  const { lens, choose } = useLensStore();
  const amount = lens?.amount == null ? "" : ` ${lens.amount}`;
  const on = "max-w-44 truncate bg-ink text-ground px-2 hover:no-underline";
  return (
    <ActionPanel
      label={lens ? `Lens: ${lens.label}${amount}` : "Lens"}
      {...(lens ? { className: on } : {})}
      mark="lens"
    >
      {() => (
        <div>
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
                  <Fragment key={entry.id}>
                    <label
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
                    {lens?.id === entry.id && <Chosen entry={entry} amount={lens.amount} />}
                  </Fragment>
                ))}
            </fieldset>
          ))}
          {lens && <TextButton onClick={() => choose(null)}>Take the lens off</TextButton>}
        </div>
      )}
    </ActionPanel>
  );
}
