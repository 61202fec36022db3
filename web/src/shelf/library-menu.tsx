import { useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { takeArchive } from "../api/files";
import { KEYS } from "../api/queries";
import { inWords } from "../api/words";
import { useScreen } from "../shell/store";
import { Button } from "../ui/button";
import { ActionPanel } from "../ui/sentence";

/** The whole library out and in. */
export function LibraryMenu() {
  const queries = useQueryClient();
  const say = useScreen((screen) => screen.say);
  const [working, setWorking] = useState(false);
  const file = useRef<HTMLInputElement>(null);
  const take = async (chosen: File, close: () => void) => {
    setWorking(true);
    try {
      const taken = await takeArchive(chosen);
      if ("share" in taken) {
        await queries.invalidateQueries({ queryKey: KEYS.jobs });
        say(
          "That is a large archive: it is brought in while you go on. “At work” on the shelf says how far it is.",
        );
        setWorking(false);
        close();
        return;
      }
      const brought = [
        taken.palettes && `${taken.palettes} ${taken.palettes === 1 ? "palette" : "palettes"}`,
        taken.pictures && `${taken.pictures} ${taken.pictures === 1 ? "picture" : "pictures"}`,
        taken.recipes && `${taken.recipes} ${taken.recipes === 1 ? "recipe" : "recipes"}`,
      ].filter(Boolean);
      say(
        `${brought.length ? `${brought.join(", ")} brought in` : "Nothing new in it"}${taken.known ? `; ${taken.known} were here already` : ""}.`,
      );
      close();
    } catch (error) {
      say(inWords(error), { kind: "wrong" });
    }
    setWorking(false);
    await queries.invalidateQueries({ queryKey: KEYS.shelf });
    await queries.invalidateQueries({ queryKey: KEYS.recipes });
  };
  return (
    <ActionPanel label="Archive …">
      {(close) => (
        <>
          <p className="mb-3 text-small text-quiet">
            Everything on the shelf in one file: palettes with their pictures, and your recipes. Bringing it
            in twice makes no doubles.
          </p>
          <div className="flex gap-2">
            <a
              href="/api/library/archive"
              download
              className="inline-flex min-h-7 items-center rounded-md border border-ink bg-ink px-3 text-small font-semibold text-ground"
            >
              Fetch the archive
            </a>
            <Button disabled={working} onClick={() => file.current?.click()}>
              {working ? "Bringing in …" : "Bring one in"}
            </Button>
            <input
              ref={file}
              type="file"
              accept=".zip,application/zip"
              aria-label="Archive file"
              className="hidden"
              onChange={(event) => {
                const chosen = event.target.files?.[0];
                event.target.value = "";
                if (chosen) void take(chosen, close);
              }}
            />
          </div>
          <p className="mt-3 text-small text-quiet">
            <a href="/static/licenses.txt" className="underline">
              Licenses
            </a>{" "}
            of Huvren and of everything it ships.
          </p>
        </>
      )}
    </ActionPanel>
  );
}
