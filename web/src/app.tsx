import { useJobsShown } from "./api/jobs";
import { Bench } from "./bench/bench";
import { ImportPage } from "./imports/import-page";
import { Shelf } from "./shelf/shelf";
import { Notices } from "./shell/notices";
import { usePath } from "./shell/path";
import { Button } from "./ui/button";

export function App() {
  const { path, go } = usePath();
  useJobsShown();
  const palette = /^\/palettes\/([0-9a-f-]{36})$/.exec(path)?.[1];
  return (
    <>
      {palette ? (
        <Bench key={palette} id={palette} />
      ) : path === "/" ? (
        <Shelf />
      ) : (
        <main className="grid h-full place-items-center">
          <div className="max-w-sm">
            <h1 className="mb-2 text-xl font-semibold">There is nothing at this address</h1>
            <p className="mb-4 text-quiet">It may have been mistyped, or the link is from elsewhere.</p>
            <Button primary onClick={() => go("/")}>
              Go to the shelf
            </Button>
          </div>
        </main>
      )}
      <ImportPage />
      <Notices />
    </>
  );
}
