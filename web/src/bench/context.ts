import { createContext, useContext } from "react";
import type { Draft, Link, Menus, Operation, Palette, Preview, Recipe, Swatch } from "../api/client";
import type { Change } from "../api/palette";

/** What the parts of a bench share. `shown` are the swatches on screen: the palette's, or those of a preview. */
export interface BenchState {
  palette: Palette;
  menus: Menus;
  shown: Swatch[];
  /** The linked picture that is looked at, where there is one. */
  link: Link | undefined;
  showPicture: (id: string) => void;
  groups: { id: string; name: string; columns?: number | null }[];
  preview: Preview | null;
  /** What is tried out and not kept. */
  draft: Draft | null;
  /** The recipe of the draft where that is a reduction. */
  recipe: Recipe | null;
  setDraft: (draft: Draft) => void;
  discard: () => void;
  keep: () => Promise<Palette | null>;
  /** Why the draft cannot be done. */
  problem: string | null;
  busy: boolean;
  keeping: boolean;
  change: (change: Change) => Promise<Palette | null>;
  /** Before something else is done: keep a reduction that is tried out, put any other draft back. False if it failed. */
  settle: () => Promise<boolean>;
  /** Settle the draft, then apply an operation. */
  operate: (operation: Operation) => Promise<Palette | null>;
}

export const BenchContext = createContext<BenchState | null>(null);

export function useBench(): BenchState {
  const bench = useContext(BenchContext);
  if (!bench) throw new Error("useBench needs a bench around it.");
  return bench;
}
