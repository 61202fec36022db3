import { useQueryClient } from "@tanstack/react-query";
import { type CardKind, duplicatePalette, setFavorite } from "../api/commands";
import { KEYS } from "../api/queries";
import { inWords } from "../api/words";
import { useScreen } from "../shell/store";

/** What is done with single cards: favorites, copies. */
export function useCardActions() {
  const queries = useQueryClient();
  const say = useScreen((screen) => screen.say);
  const attempt = async (work: Promise<unknown>) => {
    try {
      await work;
    } catch (error) {
      say(inWords(error), { kind: "wrong" });
    }
    await queries.invalidateQueries({ queryKey: KEYS.shelf });
  };
  return {
    favor: (kind: CardKind, id: string, favorite: boolean) => attempt(setFavorite(kind, id, favorite)),
    duplicate: (id: string) => attempt(duplicatePalette(id)),
  };
}
