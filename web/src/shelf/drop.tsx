import { ImageDown } from "lucide-react";
import { type DragEvent, type ReactNode, useRef, useState } from "react";
import { Button } from "../ui/button";
import { useBringIn, useProgress } from "./use-bring-in";

function hasFiles(event: DragEvent) {
  return [...event.dataTransfer.types].includes("Files");
}

/** Takes pictures dropped anywhere inside it. */
export function DropArea({ children }: { children: ReactNode }) {
  const bringIn = useBringIn();
  const [over, setOver] = useState(false);
  const progress = useProgress((state) => state.progress);
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
        void bringIn(event.dataTransfer.files);
      }}
    >
      {children}
      {(over || progress) && (
        <div className="pointer-events-none fixed inset-3 z-40 grid place-items-center rounded-lg border-2 border-dashed border-ink bg-ground/85">
          {progress ? (
            <div role="status" className="w-80">
              <p className="mb-2 truncate font-semibold">{progress.name}</p>
              <div
                role="progressbar"
                aria-label="Bringing the picture in"
                aria-valuenow={Math.round(progress.share * 100)}
                aria-valuemin={0}
                aria-valuemax={100}
                className="h-1.5 overflow-hidden rounded-full bg-line"
              >
                {progress.step === "sending" ? (
                  <div className="h-full bg-ink" style={{ width: `${progress.share * 100}%` }} />
                ) : (
                  <div className="busy-bar h-full w-1/3 bg-ink" />
                )}
              </div>
              <p className="mt-2 text-quiet">
                {progress.step === "sending" ? "Sending …" : "Reading and reducing …"}
              </p>
            </div>
          ) : (
            <div className="text-center">
              <ImageDown size={40} strokeWidth={1.5} aria-hidden="true" className="mx-auto mb-3" />
              <p className="text-lg font-semibold">Drop to put it on a bench</p>
              <p className="text-quiet">PNG, JPEG, WebP or GIF; it is reduced to 24 colors to begin with</p>
            </div>
          )}
        </div>
      )}
    </div>
  );
}

/** A button that opens the file dialog. */
export function ChooseFile({
  primary = true,
  label = "Choose a picture",
}: {
  primary?: boolean;
  label?: string;
}) {
  const bringIn = useBringIn();
  const field = useRef<HTMLInputElement>(null);
  return (
    <>
      <Button primary={primary} onClick={() => field.current?.click()}>
        {label}
      </Button>
      <input
        ref={field}
        type="file"
        accept="image/png,image/jpeg,image/webp,image/gif"
        multiple
        aria-label="Picture files"
        className="hidden"
        onChange={(event) => {
          if (event.target.files?.length) void bringIn(event.target.files);
          event.target.value = "";
        }}
      />
    </>
  );
}

/** What to do where there is no picture yet. */
export function DropHint({ title, text }: { title: string; text: string }) {
  return (
    <div className="max-w-md rounded-lg border-2 border-dashed border-line px-10 py-9 text-center">
      <ImageDown size={36} strokeWidth={1.5} aria-hidden="true" className="mx-auto mb-3" />
      <h2 className="mb-1 text-lg font-semibold">{title}</h2>
      <p className="mb-4 text-quiet">{text}</p>
      <ChooseFile />
    </div>
  );
}
