import { useQueryClient } from "@tanstack/react-query";
import { type CardKind, emptyTrash, setAllTrashed, setTrashed } from "../api/commands";
import { KEYS } from "../api/queries";
import { inWords } from "../api/words";
import { useScreen } from "../shell/store";

/** Into the trash, with the offer to put it back; or out of it again. */
export function useTrash() {
  const queries = useQueryClient();
  const say = useScreen((screen) => screen.say);
  const lookAnew = () => queries.invalidateQueries({ queryKey: KEYS.shelf });
  /** What was asked for, or nothing where that failed; the shelf is looked at anew either way. */
  const attempt = async <Answer>(asked: Promise<Answer>): Promise<Answer | null> => {
    try {
      return await asked;
    } catch (error) {
      say(inWords(error), { kind: "wrong" });
      return null;
    } finally {
      await lookAnew();
    }
  };
  const send = async (kind: CardKind, id: string, restore: boolean) =>
    (await attempt(setTrashed(kind, id, !restore).then(() => true))) !== null;
  const one = async (kind: CardKind, id: string, name: string, restore: boolean) => {
    const isDone = await send(kind, id, restore);
    if (isDone && !restore)
      say(`“${name}” is in the trash.`, {
        action: { label: "Put it back", run: () => void send(kind, id, true) },
      });
  };
  /** Several at once, with one offer to put back what went. Tells whether they have gone. */
  const many = async (cards: readonly (readonly [CardKind, string])[], said: string, restore = false) => {
    const gone = await attempt(setAllTrashed(cards, !restore));
    if (gone === null) return false;
    const whole = gone.length === cards.length;
    const where = restore ? "on the shelf again" : "in the trash";
    say(`${whole ? said : `${gone.length} of ${cards.length}`} ${where}.`, {
      action:
        restore || gone.length === 0
          ? undefined
          : { label: "Put them back", run: () => void attempt(setAllTrashed(gone, false)) },
    });
    return true;
  };
  /** Remove for good what is in the trash. */
  const empty = async () => {
    try {
      const gone = await emptyTrash();
      const parts = [
        gone.palettes === 1 ? "1 palette" : `${gone.palettes} palettes`,
        gone.pictures === 1 ? "1 picture" : `${gone.pictures} pictures`,
      ];
      say(`${parts.join(" and ")} removed for good.`);
    } catch (error) {
      say(inWords(error), { kind: "wrong" });
    }
    await queries.invalidateQueries({ queryKey: KEYS.shelf });
  };
  return { one, many, empty };
}
