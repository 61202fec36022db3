import type { Palette } from "./types";

/** What changes when a palette changes. */
export type Stand = Pick<Palette, "id" | "revision">;

export const forever = { staleTime: Number.POSITIVE_INFINITY } as const;

export const KEYS = {
  palette: (id: string) => ["palette", id] as const,
  history: (id: string) => ["history", id] as const,
  shelf: ["shelf"] as const,
  recipes: ["recipes"] as const,
  jobs: ["jobs"] as const,
  account: ["account"] as const,
  limits: ["limits"] as const,
  /** Of steps that are on their way. */
  changes: (id: string) => ["change", id] as const,
  proofs: (picture: string) => ["proofs", picture] as const,
};
