import { useQueryClient } from "@tanstack/react-query";
import { FileDown } from "lucide-react";
import { type DragEvent, type ReactNode, useEffect, useRef, useState } from "react";
import { isOpen, useJobs } from "../api/jobs";
import { useMenusAsked } from "../api/palette";
import { ask } from "../api/queries";
import { useJobActions } from "../shell/jobs";
import { Button } from "../ui/button";
import { isPicture, textAsFile, useDroppedPictures, useWaitingFiles } from "./store";
import { useBringIn, useProgress } from "./use-bring-in";

function hasFiles(event: DragEvent) {
  return [...event.dataTransfer.types].includes("Files");
}

/**
 * Where files go. On the shelf pictures alone open on benches of their own; on a bench it is asked what they are for.
 * Anything else opens the import page first.
 */
function useReceive(target: string | null) {
  const bringIn = useBringIn();
  const open = useWaitingFiles((state) => state.open);
  const askOf = useDroppedPictures((state) => state.ask);
  const queries = useQueryClient();
  return async (files: File[]) => {
    if (files.length === 0) return;
    // A file may be there before it is known what is a picture.
    const types = await queries.ensureQueryData(ask.menus()).then(
      (menus) => menus.picture_types,
      () => [],
    );
    if (!files.every((file) => isPicture(file, types))) open(files, target);
    else if (target === null) void bringIn(files);
    else askOf(files);
  };
}

/** Takes files dropped or pasted anywhere inside it; `target` is the palette of a bench. */
export function DropArea({ children, target = null }: { children: ReactNode; target?: string | null }) {
  const receive = useReceive(target);
  const [over, setOver] = useState(false);
  const progress = useProgress((state) => state.progress);
  const stop = useProgress((state) => state.stop);
  const job = useJobs().find((entry) => isOpen(entry) && entry.kind === "reduction" && !entry.palette);
  const act = useJobActions();
  const latest = useRef(receive);
  latest.current = receive;
  useEffect(() => {
    const paste = (event: ClipboardEvent) => {
      const typing = event.target instanceof HTMLElement && /^(INPUT|TEXTAREA)$/.test(event.target.tagName);
      if (typing || useWaitingFiles.getState().waiting || useDroppedPictures.getState().files.length) return;
      const files = [...(event.clipboardData?.files ?? [])];
      const text = event.clipboardData?.getData("text/plain") ?? "";
      if (files.length) latest.current(files);
      else if (text.trim()) latest.current([textAsFile(text)]);
    };
    window.addEventListener("paste", paste);
    return () => window.removeEventListener("paste", paste);
  }, []);
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: dropping has a button beside it that does the same
    <div
      className="h-full"
      onDragOver={(event) => {
        if (!hasFiles(event)) return;
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={(event) => {
        if (!event.currentTarget.contains(event.relatedTarget as Node | null)) setOver(false);
      }}
      onDrop={(event) => {
        if (!hasFiles(event)) return;
        event.preventDefault();
        setOver(false);
        receive([...event.dataTransfer.files]);
      }}
    >
      {children}
      {(over || progress) && (
        <div className="pointer-events-none fixed inset-3 z-40 grid place-items-center rounded-lg border-2 border-dashed border-ink bg-ground/85">
          {progress ? (
            <div role="status" className="w-96 rounded-md border border-ink bg-panel p-6">
              <p className="mb-2 truncate font-semibold">{progress.name}</p>
              <div
                role="progressbar"
                aria-label="Bringing the picture in"
                aria-valuenow={Math.round(progress.share * 100)}
                aria-valuemin={0}
                aria-valuemax={100}
                className="h-1.5 overflow-hidden rounded-full bg-line"
              >
                {progress.step !== "reducing" || job ? (
                  <div
                    className="h-full bg-ink"
                    style={{
                      width: `${(progress.step === "reducing" ? (job?.share ?? 0) : progress.share) * 100}%`,
                    }}
                  />
                ) : (
                  <div className="busy-bar h-full w-1/3 bg-ink" />
                )}
              </div>
              <p className="mt-2 text-quiet">
                {progress.step === "sending" && "Sending …"}
                {progress.step === "waiting" &&
                  "The server cannot be reached. It is sent again by itself when that is over."}
                {progress.step === "reducing" && (job?.step || "Reading and reducing …")}
              </p>
              {progress.step !== "reducing" && (
                <Button className="pointer-events-auto mt-3" onClick={stop}>
                  Do not send it
                </Button>
              )}
              {job && progress.step === "reducing" && (
                <Button className="pointer-events-auto mt-3" onClick={() => void act("cancel", job.id)}>
                  Cancel
                </Button>
              )}
            </div>
          ) : (
            <div className="text-center">
              <FileDown size={40} strokeWidth={1.5} aria-hidden="true" className="mx-auto mb-3" />
              <p className="text-lg font-semibold">
                {target ? "Drop to see what it holds" : "Drop to bring it in"}
              </p>
              <p className="text-quiet">
                {target
                  ? "Palettes, pictures, style sheets, any text: shown first, nothing changes yet"
                  : "Pictures open on a bench, reduced to 24 colors; palettes and text are shown first"}
              </p>
            </div>
          )}
        </div>
      )}
    </div>
  );
}

interface ChooseProps {
  primary?: boolean;
  label?: string;
  /** Pictures alone, or every file that can be read. */
  kind?: "picture" | "any";
  target?: string | null;
}

/** A button that opens the file dialog. */
export function ChooseFile({
  primary = true,
  label = "Choose a picture",
  kind = "picture",
  target = null,
}: ChooseProps) {
  const bringIn = useBringIn();
  const receive = useReceive(target);
  const menus = useMenusAsked();
  const field = useRef<HTMLInputElement>(null);
  const pictures = menus.data?.picture_types ?? [];
  return (
    <>
      <Button primary={primary} onClick={() => field.current?.click()}>
        {label}
      </Button>
      <input
        ref={field}
        type="file"
        accept={[...pictures, ...(kind === "any" ? (menus.data?.readable_endings ?? []) : [])].join()}
        multiple
        aria-label={kind === "picture" ? "Picture files" : "Files to bring in"}
        className="hidden"
        onChange={(event) => {
          const files = [...(event.target.files ?? [])];
          event.target.value = "";
          if (files.length && kind === "picture") void bringIn(files);
          else receive(files);
        }}
      />
    </>
  );
}

/** What to do where there is no picture yet. */
export function DropHint({ title, text }: { title: string; text: string }) {
  return (
    <div className="max-w-md rounded-lg border-2 border-dashed border-line px-10 py-9 text-center">
      <FileDown size={36} strokeWidth={1.5} aria-hidden="true" className="mx-auto mb-3" />
      <h2 className="mb-1 text-lg font-semibold">{title}</h2>
      <p className="mb-4 text-quiet">{text}</p>
      <ChooseFile />
    </div>
  );
}
