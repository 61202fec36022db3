import { Check } from "lucide-react";

/** The mark of a card that can be selected. */
export function SelectMark({ on }: { on: boolean }) {
  return (
    <span
      aria-hidden="true"
      className={`absolute top-1.5 left-1.5 grid size-5 place-items-center rounded border border-ink ${on ? "bg-ink text-ground" : "bg-ground"}`}
    >
      {on && <Check size={15} strokeWidth={3} />}
    </span>
  );
}
