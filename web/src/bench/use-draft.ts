import { useEffect, useRef } from "react";
import type { Operation } from "../api/types";
import { useCommands, useDraftProblem, usePalette, usePreview } from "./context";

export interface Wish {
  /** What is wanted, or null for nothing; then what is tried out is put back. */
  operation: Operation | null;
  /** A text that stands for it: what is wanted is asked for again when this or the palette changes. */
  said: string;
  /** Leave what is there: neither ask for it nor put it back. */
  rests?: boolean;
}

/** What a view proposes by itself, as the bench's draft: asked for anew on every state of the palette, gone with the view. */
export function useDraft({ operation, said, rests = false }: Wish) {
  const palette = usePalette();
  const preview = usePreview();
  const problem = useDraftProblem();
  const { setDraft, discard } = useCommands();
  const wanted = useRef({ operation, rests });
  wanted.current = { operation, rests };
  const asked = useRef("");
  const wish = `${palette.revision} ${said}`;
  useEffect(() => {
    if (asked.current === wish) return;
    asked.current = wish;
    if (wanted.current.rests) return;
    if (wanted.current.operation) setDraft({ kind: "step", operation: wanted.current.operation });
    else discard();
  }, [wish, setDraft, discard]);
  useEffect(
    () => () => {
      asked.current = "";
      discard();
    },
    [discard],
  );
  return { proposal: preview?.kind === "step" ? preview.proposal : null, problem };
}
