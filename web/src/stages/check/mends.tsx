import { useQuery } from "@tanstack/react-query";
import { useIsAsking } from "../../api/asking";
import { ask } from "../../api/queries";
import type { Operation } from "../../api/types";
import { type Moved, useChecks, useChecksAnswer, useMoved } from "../../bench/checks";
import {
  useBench,
  useCommands,
  useDrafted,
  useDraftProblem,
  useIsBusy,
  useLinked,
} from "../../bench/context";
import { useScreen } from "../../shell/store";
import { Button } from "../../ui/button";
import { SAID, VERDICTS, type Verdict } from "./verdict";

/** The single steps of a step that is tried out. */
function stepsOf(operation: Operation): Operation[] {
  return operation.kind === "several" ? (operation.steps as Operation[]) : [operation];
}

/** Steps to be tried out, and kept, as one. */
function together(steps: Operation[]): Operation {
  const [only] = steps;
  return steps.length === 1 && only ? only : { kind: "several", steps: steps as Record<string, unknown>[] };
}

/** What else a trial changes: every check with another verdict, the one that gets worse first. */
function MovedVerdicts({ moved, tried }: { moved: Moved[] | null; tried: number }) {
  const menus = useQuery(ask.checkMenus()).data;
  const set = useChecks((state) => state.set);
  const what = tried > 1 ? `${tried} mends tried out` : "Tried out";
  if (!moved) return <>{what}; looking at every check …</>;
  if (moved.length === 0) return <>{what}: no verdict changes.</>;
  const fall = ({ before, after }: Moved) =>
    VERDICTS.indexOf(after as Verdict) - VERDICTS.indexOf(before as Verdict);
  const label = (id: string) => menus?.checks.find((check) => check.id === id)?.label ?? id;
  return (
    <>
      {what}:{" "}
      {moved
        .toSorted((a, b) => fall(a) - fall(b))
        .map((entry, place) => (
          <span key={entry.id} className="whitespace-nowrap">
            {place > 0 && " · "}
            <button
              type="button"
              className={`hover:underline ${fall(entry) < 0 ? "font-semibold text-ink" : ""}`}
              onClick={() => set({ open: entry.id })}
            >
              {label(entry.id)}
            </button>{" "}
            {SAID[entry.before as Verdict]} → {SAID[entry.after as Verdict]}
          </span>
        ))}
    </>
  );
}

/** What would repair what was found: each is tried out as a draft first, and others on top of it. */
export function Mends() {
  const { answer } = useChecksAnswer();
  const looked = useChecks((state) => state.open);
  const draft = useDrafted();
  const busy = useIsBusy();
  const problem = useDraftProblem();
  const link = useLinked();
  const { setDraft, discard, keep } = useCommands();
  const moved = useMoved();
  // Until what is shown now is answered, what was offered before may be of no use.
  const asking = useIsAsking(useBench().checking);
  // Until the answer about this question is there, the mends of the one before are not offered under it.
  const open = answer?.open?.id === looked ? answer.open : undefined;
  const pairLimit = open?.recipe.pair_limit;
  const tried = draft?.kind === "step" ? stepsOf(draft.operation) : [];
  // While something is tried out, an answer may still be about the palette without it.
  const mends = draft && moved === null ? [] : (open?.mends ?? []);
  if (mends.length === 0 && !draft && !pairLimit) return null;
  return (
    <div className="grid shrink-0 grid-cols-2 items-center gap-2 border-t border-line pt-2">
      {draft?.kind === "step" && (
        <div className="col-span-2 flex items-start gap-2">
          <span className="min-w-0 grow self-center text-small text-quiet">
            {problem ?? <MovedVerdicts moved={moved} tried={tried.length} />}
          </span>
          {tried.length > 1 && (
            <Button
              title="Try without the last of them"
              onClick={() => setDraft({ kind: "step", operation: together(tried.slice(0, -1)) })}
            >
              One less
            </Button>
          )}
          <Button onClick={discard} title="Put the palette back as it is kept (Escape)">
            Put back
          </Button>
          <Button
            primary
            disabled={busy || problem !== null}
            onClick={() => void keep()}
            title="Make this step (K)"
          >
            Keep
          </Button>
        </div>
      )}
      {mends.map((mend) => (
        <Button
          key={mend.label}
          className="truncate"
          disabled={asking}
          title={tried.length ? `${mend.label}, as well` : mend.label}
          onClick={() =>
            setDraft({ kind: "step", operation: together([...tried, mend.operation as Operation]) })
          }
        >
          {mend.label}
        </Button>
      ))}
      {!draft && pairLimit !== undefined && link && (
        <Button
          title="Reduce the linked picture again, dithered, with no pair of swatches farther apart than these"
          onClick={() => {
            useScreen.getState().setStage("reduce");
            setDraft({
              kind: "reduce",
              picture: link.picture.id,
              recipe: {
                ...link.recipe,
                pair_limit: pairLimit,
                dither: link.recipe.dither === "none" ? "ordered" : link.recipe.dither,
              },
            });
          }}
        >
          Reduce with pairs within {pairLimit}
        </Button>
      )}
    </div>
  );
}
