import type { Menus, Recipe } from "../api/types";

export const MOST_PROOFS = 12;

/** What colors are chosen for: untuned, or tuned with a grain. */
export type Tuning = Pick<Recipe, "tune"> & Partial<Pick<Recipe, "grain">>;

/** Every combination of counts, choosers, dithers, grains and untuned, over a recipe, as many as fit on a sheet. */
export function combinations(
  base: Recipe,
  counts: readonly number[],
  choosers: readonly string[],
  dithers: readonly string[],
  tunings: readonly Tuning[] = [],
): Recipe[] {
  const made: Recipe[] = [];
  // Without a dither there is nothing to tune to.
  for (const chooser of choosers.length ? choosers : [base.chooser])
    for (const dither of dithers.length ? dithers : [base.dither])
      for (const colors of counts.length ? counts : [base.colors])
        for (const tuning of tunings.length && dither !== "none" ? tunings : [{}])
          made.push({ ...base, search: "usual", colors, chooser, dither, ...tuning });
  return made.slice(0, MOST_PROOFS);
}

export function sameRecipe(one: Recipe, other: Recipe) {
  return JSON.stringify(one) === JSON.stringify(other);
}

function tuningLabel({ tune, grain }: Recipe, { grains }: Pick<Menus, "grains">) {
  if (!tune) return "untuned";
  const name = grains.find((entry) => entry.grain === grain)?.label;
  return name ? `${name} grain` : `grain of ${grain}`;
}

/** What sets a proof apart, in a few words. */
export function proofLabel(recipe: Recipe, menus: Pick<Menus, "choosers" | "dithers" | "grains">) {
  const chooser = menus.choosers.find((entry) => entry.id === recipe.chooser);
  const dither = menus.dithers.find((entry) => entry.id === recipe.dither);
  const parts = [chooser?.sets_count ? (chooser.label ?? "") : `${recipe.colors} colors`];
  if (recipe.chooser !== "perceptual" && !chooser?.sets_count) parts.push(chooser?.label ?? recipe.chooser);
  if (recipe.dither !== "none") parts.push(dither?.label ?? recipe.dither);
  if (recipe.dither !== "none" && chooser?.tunes) parts.push(tuningLabel(recipe, menus));
  if (recipe.accent) parts.push(`accents ${recipe.accent} %`);
  return parts.join(", ");
}
