import { useQuery } from "@tanstack/react-query";
import { Popover } from "radix-ui";
import { useState } from "react";
import { ask } from "../api/queries";
import type { Step } from "../api/types";
import { TextButton } from "../ui/button";
import { useCommands, usePalette } from "./context";

const TIME = new Intl.DateTimeFormat("en", { hour: "2-digit", minute: "2-digit", hour12: false });
const DAY = new Intl.DateTimeFormat("en", { day: "numeric", month: "short" });

function when(step: Step) {
  const date = new Date(step.created);
  return date.toDateString() === new Date().toDateString() ? TIME.format(date) : DAY.format(date);
}

/** The steps that led here. Steps left behind by an undo stay, set lighter, and can be gone back to. */
function path(steps: Step[]) {
  const byNumber = new Map(steps.map((step) => [step.number, step]));
  const trodden = new Set<number>();
  let here = steps.find((step) => step.is_head);
  while (here) {
    trodden.add(here.number);
    here = here.parent === null ? undefined : byNumber.get(here.parent);
  }
  return trodden;
}

/** Every step of the palette, by name; one can go back to any of them. */
export function History() {
  const palette = usePalette();
  const { change } = useCommands();
  const [open, setOpen] = useState(false);
  const query = useQuery({
    ...ask.history(palette.id),

    enabled: open,
  });
  const steps = query.data ?? [];
  const trodden = path(steps);
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger asChild>
        <TextButton>History</TextButton>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={6}
          aria-label="History"
          className="z-40 max-h-[70vh] w-[26rem] overflow-y-auto rounded-md border border-ink bg-raised p-2 shadow-lg outline-none"
        >
          {query.isPending && <p className="p-2 text-quiet">Fetching the steps …</p>}
          {query.error && <p className="p-2">{query.error.message}</p>}
          <ol className="m-0 list-none p-0" reversed>
            {steps.map((step) => (
              <li key={step.number}>
                <button
                  type="button"
                  aria-current={step.is_head ? "step" : undefined}
                  className={`grid w-full grid-cols-[34px_1fr_auto] gap-2 rounded px-2 py-1.5 text-left text-small hover:bg-ground ${
                    step.is_head
                      ? "bg-ink text-ground hover:bg-ink"
                      : trodden.has(step.number)
                        ? ""
                        : "text-quiet italic"
                  }`}
                  onClick={() => !step.is_head && void change({ kind: "go-to", number: step.number })}
                >
                  <span className="text-right">{step.number}</span>
                  <span className="min-w-0 break-words">{step.label}</span>
                  <span>{when(step)}</span>
                </button>
              </li>
            ))}
          </ol>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
