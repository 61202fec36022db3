import { Tabs } from "radix-ui";
import { Fragment, type ReactNode } from "react";
import { stepFocus } from "./step-focus";

/** The keys of every row of tabs. */
export const TABS = { items: "[role=tab]", keys: ["ArrowLeft", "ArrowRight"], isRound: true } as const;

interface Entry<Id extends string> {
  id: Id;
  label: string;
  /** Stands apart from the entry before it. */
  apart?: boolean;
}

/** The views of a stage as a row of tabs, and the one that is shown. */
export function ViewTabs<Id extends string>({
  label,
  views,
  view,
  onChange,
  children,
}: {
  label: string;
  views: readonly Entry<Id>[];
  view: Id;
  onChange: (view: Id) => void;
  /** The view that is shown. */
  children: ReactNode;
}) {
  return (
    <Tabs.Root
      value={view}
      onValueChange={(next) => onChange(next as Id)}
      className="flex min-h-0 grow flex-col"
    >
      <Tabs.List
        aria-label={label}
        onKeyDownCapture={(event) => stepFocus(event, TABS)}
        className="-mt-1.5 mb-2 flex flex-wrap items-center gap-x-4"
      >
        {views.map((entry) => (
          <Fragment key={entry.id}>
            {entry.apart && <span role="presentation" className="h-4 w-px bg-line" />}
            <Tabs.Trigger
              value={entry.id}
              className={`min-h-7 border-b-2 text-small whitespace-nowrap ${
                view === entry.id
                  ? "border-ink font-semibold"
                  : "border-transparent text-quiet hover:text-ink"
              }`}
            >
              {entry.label}
            </Tabs.Trigger>
          </Fragment>
        ))}
      </Tabs.List>
      <Tabs.Content value={view} tabIndex={-1} className="flex min-h-0 grow flex-col outline-none">
        {children}
      </Tabs.Content>
    </Tabs.Root>
  );
}
