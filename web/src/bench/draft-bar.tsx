import type { ReactNode } from "react";
import { Button } from "../ui/button";
import { useCommands, useDrafted, useIsBusy } from "./context";

/** The line under a sentence: measured figures, and what to do with the draft. */
export function DraftBar({
  children,
  canKeep,
  label,
}: {
  children: ReactNode;
  canKeep: boolean;
  /** Left out where there is nothing that could be kept. */
  label: string | null;
}) {
  const draft = useDrafted();
  const busy = useIsBusy();
  const { putBack, keep } = useCommands();
  return (
    <div className="mb-2 flex min-h-8 items-center gap-x-5 text-small text-quiet">
      {children}
      <span className="grow" />
      {draft && (
        <Button onClick={putBack} title="Put the palette back as it is kept (Escape)">
          Put back
        </Button>
      )}
      {label && (
        <Button primary disabled={!canKeep || busy} onClick={() => void keep()} title="Make this step (K)">
          {label}
        </Button>
      )}
    </div>
  );
}

/** A name with its figure. */
export function Figure({ name, value, title }: { name: string; value: ReactNode; title?: string }) {
  return (
    <span title={title} className="whitespace-nowrap">
      {name} <strong className="font-semibold text-ink">{value}</strong>
    </span>
  );
}
