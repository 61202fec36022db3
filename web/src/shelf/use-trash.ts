import { useQueryClient } from "@tanstack/react-query";
import { type CardKind, emptyTrash, setTrashed } from "../api/commands";
import { KEYS } from "../api/queries";
import { inWords } from "../api/words";
import { useScreen } from "../shell/store";

/** So often is the shelf looked at while many cards go. */
const SHOWN_EVERY = 20;

/** Into the trash, with the offer to put it back; or out of it again. */
export function useTrash() {
  const queries = useQueryClient();
  const say = useScreen((screen) => screen.say);
  const lookAnew = () => queries.invalidateQueries({ queryKey: KEYS.shelf });
  const move = async (kind: CardKind, id: string, restore: boolean) => {
    try {
      await setTrashed(kind, id, !restore);
      return true;
    } catch (error) {
      say(inWords(error), { kind: "wrong" });
      return false;
    }
  };
  const send = async (kind: CardKind, id: string, restore: boolean) => {
    const isDone = await move(kind, id, restore);
    await lookAnew();
    return isDone;
  };
  const one = async (kind: CardKind, id: string, name: string, restore: boolean) => {
    const isDone = await send(kind, id, restore);
    if (isDone && !restore)
      say(`“${name}” is in the trash.`, {
        action: { label: "Put it back", run: () => void send(kind, id, true) },
      });
  };
  /** Several at once, with one offer to put back what went. */
  const many = async (cards: (readonly [CardKind, string])[], said: string, restore = false) => {
    const gone: (readonly [CardKind, string])[] = [];
    for (const [place, card] of cards.entries()) {
      if (await move(...card, restore)) gone.push(card);
      if (place % SHOWN_EVERY === 0) void lookAnew();
    }
    await lookAnew();
    if (gone.length === 0) return;
    if (restore) {
      say(
        gone.length === cards.length
          ? `${said} on the shelf again.`
          : `${gone.length} of ${cards.length} on the shelf again.`,
      );
      return;
    }
    say(
      gone.length === cards.length
        ? `${said} in the trash.`
        : `${gone.length} of ${cards.length} in the trash.`,
      {
        action: {
          label: "Put them back",
          run: async () => {
            for (const card of gone) await move(...card, true);
            await lookAnew();
          },
        },
      },
    );
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
