import { useCallback, useLayoutEffect, useMemo, useRef, useState } from "react";
import { type Draft, fetchPreview, type Menus, type Preview, Problem } from "../api/client";
import { Newest } from "../api/newest";
import { isTuned } from "../api/recipe";
import { inWords } from "../api/words";
import { useScreen } from "../shell/store";

/** The live preview of a draft: a reduction, or any one operation. */
export function usePreview(palette: string, revision: number, menus: Menus) {
  const say = useScreen((screen) => screen.say);
  const [preview, setPreview] = useState<Preview | null>(null);
  const [draft, setDraftState] = useState<Draft | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const newest = useMemo(
    () =>
      new Newest<Draft, Preview>({
        ask: (asked, signal) => fetchPreview(palette, asked, signal),
        // Colors that are tuned take longer: those as they are chosen are shown until then.
        quick: (wish) =>
          wish.kind === "reduce" && isTuned(wish.recipe, menus)
            ? { ...wish, recipe: { ...wish.recipe, tune: false } }
            : null,
        answer: (answer) => {
          setPreview(answer);
          setProblem(null);
        },
        problem: (error, asked) => {
          const text = inWords(error);
          setPreview(null);
          setProblem(text);
          // What a stage cannot do is said in the stage; anything else is a message.
          if (!(asked.kind === "step" && error instanceof Problem && error.status === 422))
            say(text, { kind: "wrong" });
        },
        busy: setBusy,
      }),
    [palette, say, menus],
  );

  const discard = useCallback(() => {
    newest.stop();
    setDraftState(null);
    setPreview(null);
    setProblem(null);
  }, [newest]);

  // A preview is made for one state of the palette: any other step puts it away, before a view asks for it anew.
  const seen = useRef(revision);
  useLayoutEffect(() => {
    if (seen.current === revision) return;
    seen.current = revision;
    discard();
  }, [revision, discard]);

  const setDraft = useCallback(
    (next: Draft) => {
      setDraftState(next);
      newest.want(next);
    },
    [newest],
  );
  return { preview, draft, setDraft, discard, problem, busy };
}
