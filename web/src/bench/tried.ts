import { create } from "zustand";
import { persist } from "zustand/middleware";
import type { Recipe } from "../api/types";
import { keptIn } from "../ui/kept";

interface Tried {
  recipes: Record<string, Recipe>;
  remember: (palette: string, picture: string, recipe: Recipe) => void;
  forget: (palette: string, picture: string) => void;
}

const keyOf = (palette: string, picture: string) => `${palette} ${picture}`;

/** Recipes that are tried out and not kept, by palette and picture: other stages and a reload lose nothing of them. */
export const useTriedRecipes = create<Tried>()(
  persist(
    (set) => ({
      recipes: {},
      remember: (palette, picture, recipe) =>
        set(({ recipes }) => ({ recipes: { ...recipes, [keyOf(palette, picture)]: recipe } })),
      forget: (palette, picture) =>
        set(({ recipes }) => {
          const { [keyOf(palette, picture)]: _, ...others } = recipes;
          return { recipes: others };
        }),
    }),
    { name: "huvren.tried", storage: keptIn(() => sessionStorage) },
  ),
);

/** The recipe that was tried out last for a picture of a palette and is neither kept nor put back; null where there is none. */
export function triedRecipe(palette: string, picture: string | undefined): Recipe | null {
  return picture ? (useTriedRecipes.getState().recipes[keyOf(palette, picture)] ?? null) : null;
}
