import { Star } from "lucide-react";

/** A favorite or not; always seen where it is one, else with the card under the pointer. */
export function StarButton({
  name,
  favorite,
  onTurn,
  className = "",
}: {
  name: string;
  favorite: boolean;
  onTurn: () => void;
  className?: string;
}) {
  return (
    <button
      type="button"
      aria-pressed={favorite}
      aria-label={`${favorite ? "No longer a favorite" : "Favorite"}: ${name}`}
      title={favorite ? "A favorite" : "Make it a favorite"}
      className={`grid size-7 place-items-center rounded ${favorite ? "" : "opacity-0 group-hover:opacity-100 focus-visible:opacity-100"} ${className}`}
      onClick={onTurn}
    >
      <Star size={16} fill={favorite ? "currentColor" : "none"} />
    </button>
  );
}
