import { useQueryClient } from "@tanstack/react-query";
import { client, unwrap } from "../api/client";
import { KEYS } from "../api/queries";
import { inWords } from "../api/words";
import { useScreen } from "../shell/store";
import type { Kind } from "./use-trash";

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
    favor: (kind: Kind, id: string, favorite: boolean) =>
      attempt(
        unwrap(
          client.PUT("/api/library/{kind}/{object_id}/favorite", {
            params: { path: { kind, object_id: id } },
            body: { favorite },
          }),
        ),
      ),
    duplicate: (id: string) =>
      attempt(
        unwrap(
          client.POST("/api/library/palettes/{palette_id}/duplicate", {
            params: { path: { palette_id: id } },
          }),
        ),
      ),
  };
}
