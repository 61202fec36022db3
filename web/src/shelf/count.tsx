/** How many cards a search left, of how many there are. */
export function Count({ shown, all }: { shown: number; all: number }) {
  const number = (count: number) => count.toLocaleString("en");
  return (
    <span className="font-normal text-quiet">
      {shown === all ? number(all) : `${number(shown)} of ${number(all)}`}
    </span>
  );
}
