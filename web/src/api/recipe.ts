import type { Menus, Recipe } from "./types";

type Choosers = Pick<Menus, "choosers">;

function chooserOf(recipe: Recipe, menus: Choosers) {
  return menus.choosers.find((entry) => entry.id === recipe.chooser);
}

/** Whether the colors of a recipe could be tuned to its dither. */
export function canBeTuned(recipe: Recipe, menus: Choosers) {
  return recipe.dither !== "none" && recipe.strength > 0 && Boolean(chooserOf(recipe, menus)?.tunes);
}

export function isTuned(recipe: Recipe, menus: Choosers) {
  return recipe.tune && canBeTuned(recipe, menus);
}

/** Whether a longer search may find better colors for a recipe. */
export function canSearchLonger(recipe: Recipe, menus: Choosers) {
  return isTuned(recipe, menus) || Boolean(chooserOf(recipe, menus)?.evens_out);
}

/** Whether colors are to be taken from a list that holds too few: none, or one where several are chosen of it. */
export function isListTooShort(recipe: Recipe, menus: Choosers) {
  const chooser = chooserOf(recipe, menus);
  return chooser?.needs === "list" && recipe.listed.length < (chooser.sets_count ? 1 : 2);
}

/** The recipe with no more colors than its list holds, where they are chosen of it. */
export function fitting(recipe: Recipe, menus: Choosers): Recipe {
  const chooser = chooserOf(recipe, menus);
  const isOf = chooser?.needs === "list" && !chooser.sets_count && !isListTooShort(recipe, menus);
  return isOf && recipe.colors > recipe.listed.length ? { ...recipe, colors: recipe.listed.length } : recipe;
}
