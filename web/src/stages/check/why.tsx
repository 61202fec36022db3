import { useQuery } from "@tanstack/react-query";
import { ask } from "../../api/queries";
import type { CheckMenu } from "../../api/types";
import { ActionPanel } from "../../ui/sentence";
import { DrawingView } from "./drawing-view";

const NOBODY: ReadonlySet<string> = new Set();

function Example({ check }: { check: CheckMenu }) {
  const example = useQuery(ask.checkExample(check.id)).data;
  return (
    <div>
      <p>{check.why}</p>
      <p className="mt-2">
        <b className="font-semibold">What to look for.</b> {check.look_for}
      </p>
      {example && (
        <figure className="m-0 mt-3 border-t border-line pt-3">
          <DrawingView drawing={example.drawing} hovered={NOBODY} />
          <figcaption className="mt-2 text-small text-quiet">An example: {example.sentence}</figcaption>
        </figure>
      )}
    </div>
  );
}

/** Why a check matters and what to look for, with a drawn example. */
export function Why({ check }: { check: CheckMenu }) {
  return (
    <ActionPanel label="Why this matters" wide>
      {() => <Example check={check} />}
    </ActionPanel>
  );
}
