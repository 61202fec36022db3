import { lazy, Suspense } from "react";
import { navigate } from "wouter/use-browser-location";
import type { PictureCard } from "../api/types";
import { inWords } from "../api/words";
import { useBegin } from "../imports/use-bring-in";
import { useScreen } from "../shell/store";
import { TextButton } from "../ui/button";
import { SelectMark } from "./check";
import { useSelection } from "./selection";
import { StarButton } from "./star";
import { useCardActions } from "./use-cards";
import { useTrash } from "./use-trash";

// What opens panels comes when it is wanted.
const Uses = lazy(() => import("./uses").then((loaded) => ({ default: loaded.Uses })));

/** A picture; opens the bench of its palette, or begins one. */
export function PictureTile({
  card,
  trash,
  order,
}: {
  card: PictureCard;
  trash: boolean;
  /** The keys of all cards as they are shown, for a range of them. */
  order: readonly string[];
}) {
  const throwAway = useTrash().one;
  const { favor } = useCardActions();
  const say = useScreen((screen) => screen.say);
  const makePalette = useBegin();
  const { chosen, press } = useSelection();
  const key = `pictures/${card.id}`;
  const begin = async () => {
    try {
      const palette = card.palettes[0] ?? (await makePalette(card.id));
      if (palette) navigate(`/palettes/${palette}?picture=${card.id}`);
    } catch (error) {
      say(inWords(error), { kind: "wrong" });
    }
  };
  return (
    <li className="group relative min-w-0">
      <button
        type="button"
        disabled={trash && !chosen}
        aria-pressed={chosen ? chosen.has(key) : undefined}
        data-card={card.id}
        onClick={(event) => {
          const adds = event.shiftKey || event.ctrlKey || event.metaKey;
          if (chosen || adds) press(key, order, event.shiftKey);
          else void begin();
        }}
        className="block w-full text-left outline-offset-4"
      >
        <span className="block aspect-[3/2] overflow-hidden bg-well">
          <img
            src={`/api/pictures/${card.id}/thumbnail`}
            alt=""
            loading="lazy"
            className="size-full object-cover"
          />
        </span>
        {chosen && <SelectMark on={chosen.has(key)} />}
        <span className="mt-1.5 block truncate text-body font-semibold group-hover:underline">
          {card.name}
        </span>
        <span className="block text-small text-quiet">
          {card.width} × {card.height} · {card.distinct.toLocaleString("en")} colors
        </span>
      </button>
      {!chosen && !trash && (
        <StarButton
          name={card.name}
          favorite={card.favorite}
          onTurn={() => void favor("pictures", card.id, !card.favorite)}
          className="absolute top-1 left-1 bg-ground"
        />
      )}
      {!chosen && (
        <span
          className="absolute top-1 right-1 flex gap-1 opacity-0 *:bg-ground group-hover:opacity-100 focus-within:opacity-100 has-data-[state=open]:opacity-100"
          style={trash ? { opacity: 1 } : undefined}
        >
          {!trash && (
            <Suspense>
              <Uses kind="pictures" id={card.id} name={card.name} />
            </Suspense>
          )}
          <TextButton
            aria-label={`${trash ? "Put back" : "Trash"} ${card.name}`}
            onClick={() => void throwAway("pictures", card.id, card.name, trash)}
          >
            {trash ? "Put back" : "Trash"}
          </TextButton>
        </span>
      )}
    </li>
  );
}
