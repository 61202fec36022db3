import { Tabs } from "radix-ui";
import { useScreen } from "../shell/store";
import { stepFocus } from "../ui/step-focus";
import { TABS } from "../ui/view-tabs";
import { useStages } from "./stages";

/** The stages; the number keys switch. The panel they belong to is the bench's main part. */
export function StageRow() {
  const stages = useStages();
  const stage = useScreen((screen) => screen.stage);
  const setStage = useScreen((screen) => screen.setStage);
  return (
    <Tabs.Root value={stage} onValueChange={setStage} asChild>
      <div className="shrink-0">
        <Tabs.List
          aria-label="Stages"
          onKeyDownCapture={(event) => stepFocus(event, TABS)}
          className="flex min-h-10 flex-wrap items-stretch gap-x-5 border-y border-line px-5 lg:gap-x-0"
        >
          {stages.map(({ id, label, use }, place) => (
            <div key={id} role="presentation" className="flex items-center">
              {place > 0 && <span aria-hidden="true" className="mx-3 hidden h-px w-6 bg-line lg:block" />}
              <Tabs.Trigger
                value={id}
                id={`tab-${id}`}
                title={`${use} (key ${place + 1})`}
                aria-controls="stage"
                className={`flex h-full min-h-10 items-center gap-1.5 border-b-4 pt-1 text-body ${
                  stage === id ? "border-ink font-semibold" : "border-transparent text-quiet hover:text-ink"
                }`}
              >
                <span className="grid size-[18px] place-items-center rounded-[4px] border border-current text-mini leading-none font-semibold">
                  {place + 1}
                </span>
                {label}
              </Tabs.Trigger>
            </div>
          ))}
        </Tabs.List>
      </div>
    </Tabs.Root>
  );
}
