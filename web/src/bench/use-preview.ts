import { useCallback, useEffect, useMemo, useState } from "react";
import { type Draft, fetchPreview, type Preview, Problem } from "../api/client";
import { Newest } from "../api/newest";
import { useScreen } from "../shell/store";

/** The live preview of a draft: a reduction, or any one operation. */
export function usePreview(palette: string, picture: string | null, revision: number) {
  const say = useScreen((screen) => screen.say);
  const [preview, setPreview] = useState<Preview | null>(null);
  const [draft, setDraftState] = useState<Draft | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const newest = useMemo(
    () =>
      new Newest<Draft, Preview>({
        ask: (asked, signal) => fetchPreview(palette, picture, asked, signal),
        answer: (answer) => {
          setPreview(answer);
          setProblem(null);
        },
        problem: (error, asked) => {
          const text = error instanceof Error ? error.message : String(error);
          setPreview(null);
          setProblem(text);
          // What a stage cannot do is said in the stage; anything else is a message.
          if (!(asked.kind === "step" && error instanceof Problem && error.status === 422))
            say(text, { kind: "wrong" });
        },
        busy: setBusy,
      }),
    [palette, picture, say],
  );

  const discard = useCallback(() => {
    newest.stop();
    setDraftState(null);
    setPreview(null);
    setProblem(null);
  }, [newest]);

  // A preview is made for one state of the palette: any other step puts it away.
  // biome-ignore lint/correctness/useExhaustiveDependencies: the revision is the reason to run
  useEffect(() => discard(), [revision, discard]);

  const setDraft = useCallback(
    (next: Draft) => {
      if (next.kind === "reduce" && !picture) return;
      setDraftState(next);
      newest.want(next);
    },
    [picture, newest],
  );
  return { preview, draft, setDraft, discard, problem, busy };
}
