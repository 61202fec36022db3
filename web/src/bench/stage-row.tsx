import { useScreen } from "../shell/store";
import { STAGE_ROW } from "./stages";

/** The stages; the number keys switch. */
export function StageRow() {
  const stage = useScreen((screen) => screen.stage);
  const setStage = useScreen((screen) => screen.setStage);
  const turn = (event: React.KeyboardEvent, place: number) => {
    const step = { ArrowRight: 1, ArrowLeft: -1 }[event.key];
    const next = step && STAGE_ROW[(place + step + STAGE_ROW.length) % STAGE_ROW.length];
    if (next) {
      setStage(next.id);
      document.getElementById(`tab-${next.id}`)?.focus();
      event.stopPropagation();
    }
  };
  return (
    <div
      role="tablist"
      aria-label="Stages"
      className="flex h-10 shrink-0 items-stretch border-y border-line px-5"
    >
      {STAGE_ROW.map(({ id, label, use }, place) => (
        <div key={id} role="presentation" className="flex items-center">
          {place > 0 && <span aria-hidden="true" className="mx-3 h-px w-6 bg-line" />}
          <button
            type="button"
            role="tab"
            id={`tab-${id}`}
            title={`${use} (key ${place + 1})`}
            aria-selected={stage === id}
            aria-controls="stage"
            tabIndex={stage === id ? 0 : -1}
            onClick={() => setStage(id)}
            onKeyDown={(event) => turn(event, place)}
            className={`flex h-full items-center gap-1.5 border-b-4 pt-1 text-[14px] ${
              stage === id ? "border-ink font-semibold" : "border-transparent text-quiet hover:text-ink"
            }`}
          >
            <span className="grid size-[18px] place-items-center rounded-[4px] border border-current text-[11px] leading-none font-semibold">
              {place + 1}
            </span>
            {label}
          </button>
        </div>
      ))}
    </div>
  );
}
