import { Popover } from "radix-ui";
import { TextButton } from "../ui/button";
import { giveFocusBack } from "../ui/marks";
import { keysOf } from "./keys";
import { useStages } from "./stages";

/** Every key of the bench and its stages. */
export function KeysPanel() {
  const stages = useStages();
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <TextButton>Keys</TextButton>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          onCloseAutoFocus={giveFocusBack}
          align="end"
          sideOffset={6}
          aria-label="Keys"
          className="z-40 w-96 rounded-md border border-ink bg-raised p-3 shadow-lg outline-none"
        >
          <dl className="grid grid-cols-[130px_1fr] gap-y-1.5 text-small">
            {keysOf(stages).map(([key, use]) => (
              <div key={key} className="contents">
                <dt className="font-semibold">{key}</dt>
                <dd className="m-0">{use}</dd>
              </div>
            ))}
          </dl>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
