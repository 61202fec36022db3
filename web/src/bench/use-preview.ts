import { useCallback, useEffect, useRef, useState } from "react";
import { fetchPreview, type Preview, type Recipe } from "../api/client";
import { useScreen } from "../shell/store";

/**
 * The live preview of a recipe. One request runs at a time; while it does, only the newest recipe is remembered, so
 * that a control may move as fast as it likes and the last place always arrives.
 */
export function usePreview(palette: string, picture: string | null, revision: number) {
  const say = useScreen((screen) => screen.say);
  const [preview, setPreview] = useState<Preview | null>(null);
  const [recipe, setRecipeState] = useState<Recipe | null>(null);
  const [busy, setBusy] = useState(false);
  const wanted = useRef<Recipe | null>(null);
  const running = useRef<AbortController | null>(null);

  const discard = useCallback(() => {
    wanted.current = null;
    running.current?.abort();
    running.current = null;
    setRecipeState(null);
    setPreview(null);
    setBusy(false);
  }, []);

  // A preview is made for one state of the palette: any other step puts it away.
  // biome-ignore lint/correctness/useExhaustiveDependencies: the revision is the reason to run
  useEffect(() => discard(), [revision, palette, picture, discard]);

  const setRecipe = useCallback(
    (next: Recipe) => {
      if (!picture) return;
      setRecipeState(next);
      wanted.current = next;
      if (running.current) return;
      const run = async () => {
        const control = new AbortController();
        running.current = control;
        setBusy(true);
        while (wanted.current && !control.signal.aborted) {
          const asked = wanted.current;
          wanted.current = null;
          try {
            const answer = await fetchPreview(palette, picture, asked, control.signal);
            if (!control.signal.aborted) setPreview(answer);
          } catch (error) {
            if (control.signal.aborted) return;
            say(error instanceof Error ? error.message : String(error), { kind: "wrong" });
            setPreview(null);
          }
        }
        if (running.current === control) {
          running.current = null;
          setBusy(false);
        }
      };
      void run();
    },
    [palette, picture, say],
  );
  return { preview, recipe, setRecipe, discard, busy };
}
