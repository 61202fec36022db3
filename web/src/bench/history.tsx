import { useQuery } from "@tanstack/react-query";
import { Popover } from "radix-ui";
import { useState } from "react";
import { ask } from "../api/queries";
import type { Step } from "../api/types";
import { TextButton } from "../ui/button";
import { giveFocusBack } from "../ui/marks";
import { useCommands, usePalette } from "./context";
import { graphOf, type Node, trodden } from "./history-graph";

const TIME = new Intl.DateTimeFormat("en", { hour: "2-digit", minute: "2-digit", hour12: false });
const DAY = new Intl.DateTimeFormat("en", { day: "numeric", month: "short" });

function when(step: Step) {
  const date = new Date(step.created);
  return date.toDateString() === new Date().toDateString() ? TIME.format(date) : DAY.format(date);
}

const LANE = 14;

/** The way and its branches beside one step. */
function Branches({ node, lanes, isHead }: { node: Node; lanes: number; isHead: boolean }) {
  const at = (lane: number) => lane * LANE + LANE / 2;
  return (
    <span aria-hidden="true" className="relative shrink-0 self-stretch" style={{ width: lanes * LANE }}>
      <svg
        aria-hidden="true"
        className="absolute inset-y-[-6px] left-0 h-[calc(100%+12px)]"
        width={lanes * LANE}
        viewBox={`0 0 ${lanes * LANE} 2`}
        preserveAspectRatio="none"
        fill="none"
        stroke="currentColor"
        strokeWidth={1.2}
      >
        {node.above.map((lane) => (
          <path key={`a${lane}`} d={`M${at(lane)} 0V1`} vectorEffect="non-scaling-stroke" />
        ))}
        {node.below.map((lane) => (
          <path key={`b${lane}`} d={`M${at(lane)} 1V2`} vectorEffect="non-scaling-stroke" />
        ))}
        {node.joins.map((lane) => (
          <path
            key={`j${lane}`}
            d={`M${at(lane)} 0C${at(lane)} 0.8 ${at(node.lane)} 0.5 ${at(node.lane)} 1`}
            vectorEffect="non-scaling-stroke"
          />
        ))}
      </svg>
      <span
        className={`absolute top-1/2 size-2 -translate-x-1/2 -translate-y-1/2 rounded-full border border-current ${isHead ? "bg-ground" : node.lane === 0 ? "bg-ink" : "bg-raised"}`}
        style={{ left: at(node.lane) }}
      />
    </span>
  );
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
  const way = trodden(steps);
  const graph = graphOf(steps);
  const lanes = 1 + Math.max(0, ...graph.map((node) => node.lane));
  const left = steps.length - way.size;
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger asChild>
        <TextButton>History</TextButton>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          onCloseAutoFocus={giveFocusBack}
          align="end"
          sideOffset={6}
          aria-label="History"
          className="z-40 max-h-[70vh] w-[26rem] overflow-y-auto rounded-md border border-ink bg-raised p-2 shadow-lg outline-none"
        >
          {left > 0 && (
            <p className="px-2 pb-1 text-small text-quiet">
              {left === 1 ? "1 step was" : `${left} steps were`} left behind by going back; a press returns
              there.
            </p>
          )}
          {query.isPending && <p className="p-2 text-quiet">Fetching the steps …</p>}
          {query.error && <p className="p-2">{query.error.message}</p>}
          <ol className="m-0 list-none p-0" reversed>
            {steps.map((step, row) => (
              <li key={step.number}>
                <button
                  type="button"
                  aria-current={step.is_head ? "step" : undefined}
                  className={`flex w-full gap-2 rounded px-2 py-1.5 text-left text-small hover:bg-ground ${
                    step.is_head
                      ? "bg-ink text-ground hover:bg-ink"
                      : way.has(step.number)
                        ? ""
                        : "text-quiet italic"
                  }`}
                  onClick={() => !step.is_head && void change({ kind: "go-to", number: step.number })}
                >
                  {graph[row] && <Branches node={graph[row]} lanes={lanes} isHead={step.is_head} />}
                  <span className="w-6 shrink-0 text-right">{step.number}</span>
                  <span className="min-w-0 grow break-words">
                    {step.label}
                    {!way.has(step.number) && <span className="sr-only">, left behind</span>}
                  </span>
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
