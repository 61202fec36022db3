/** A picture in small, with its name, and its size or what is to be said of it. */
export function Thumbnail({
  picture,
  note,
}: {
  picture: { id: string; name: string; width?: number; height?: number };
  note?: string | undefined;
}) {
  const size = picture.width && picture.height ? [picture.width, picture.height] : [];
  return (
    <span className="grid min-w-0 grid-cols-[56px_1fr] items-center gap-2.5 text-left">
      <img
        src={`/api/pictures/${picture.id}/thumbnail`}
        alt=""
        className="h-10 w-14 rounded-sm bg-well object-cover"
        loading="lazy"
      />
      <span className="min-w-0">
        <span className="block truncate font-semibold">{picture.name}</span>
        <span className="block truncate text-small text-quiet">
          {note ?? size.map((side) => side.toLocaleString("en")).join(" × ")}
        </span>
      </span>
    </span>
  );
}
