import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { keepRecipe, removeRecipe } from "../../api/commands";
import { ask, KEYS } from "../../api/queries";
import type { Recipe } from "../../api/types";
import { inWords } from "../../api/words";
import { useMenus } from "../../bench/context";
import { proofLabel } from "../../picture/proofs";
import { useScreen } from "../../shell/store";
import { Button, TextButton } from "../../ui/button";
import { ActionPanel } from "../../ui/sentence";

/** Recipes kept by name, for other pictures. */
export function KeptRecipes({ recipe, onTake }: { recipe: Recipe; onTake: (recipe: Recipe) => void }) {
  const menus = useMenus();
  const queries = useQueryClient();
  const say = useScreen((screen) => screen.say);
  const [name, setName] = useState("");
  const kept = useQuery(ask.recipes());
  const change = async (work: Promise<unknown>) => {
    try {
      await work;
    } catch (error) {
      say(inWords(error), { kind: "wrong" });
    }
    await queries.invalidateQueries({ queryKey: KEYS.recipes });
  };
  return (
    <ActionPanel label="Recipes" className="-mx-1.5 font-normal text-quiet hover:text-ink">
      {(close) => (
        <>
          <form
            className="mb-2 flex gap-2"
            onSubmit={(event) => {
              event.preventDefault();
              void change(keepRecipe(name, recipe)).then(() => setName(""));
            }}
          >
            <input
              aria-label="Name of the recipe"
              placeholder="Keep the present one as …"
              value={name}
              className="h-7 min-w-0 grow border-b border-ink bg-transparent"
              onChange={(event) => setName(event.target.value)}
              onKeyDown={(event) => event.key !== "Escape" && event.stopPropagation()}
            />
            <Button type="submit" disabled={!name.trim()}>
              Keep it
            </Button>
          </form>
          {kept.data?.length === 0 && (
            <p className="text-small text-quiet">
              No recipe is kept yet. A kept one can be used on any picture.
            </p>
          )}
          <ul className="m-0 grid list-none gap-1 p-0" aria-label="Kept recipes">
            {kept.data?.map((entry) => (
              <li key={entry.id} className="flex items-center gap-2 border-t border-line pt-1">
                <button
                  type="button"
                  className="min-w-0 grow text-left"
                  onClick={() => {
                    onTake({ ...entry.recipe, marks: recipe.marks });
                    close();
                  }}
                >
                  <span className="block truncate font-semibold">{entry.name}</span>
                  <span className="block truncate text-small text-quiet">
                    {proofLabel(entry.recipe as Recipe, menus)}
                  </span>
                </button>
                <TextButton
                  aria-label={`Take away ${entry.name}`}
                  onClick={() => void change(removeRecipe(entry.id))}
                >
                  Take away
                </TextButton>
              </li>
            ))}
          </ul>
        </>
      )}
    </ActionPanel>
  );
}
