import { ChevronDown, X } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import { useScreen } from "../shell/store";
import { stepFocus } from "../ui/step-focus";

const ZOOMS = [0.25, 0.5, 1, 2, 4, 8];
const ENTRY =
  "flex min-h-7 cursor-default items-center gap-2 rounded px-2 outline-none data-highlighted:bg-ink data-highlighted:text-ground";
const ITEMS = { items: "[role^=menuitem]", keys: ["ArrowUp", "ArrowDown"] } as const;

interface Props {
  zoom: number | null;
  isFit: boolean;
  onZoom: (zoom: number) => void;
  onStep: (by: number) => void;
  onFit: () => void;
}

/** How large the picture is drawn, and how it is made smaller. */
export function ZoomBar({ zoom, isFit, onZoom, onStep, onFit }: Props) {
  const asOthers = useScreen((screen) => screen.asOthers);
  const setAsOthers = useScreen((screen) => screen.setAsOthers);
  return (
    <div className="flex flex-col items-end gap-1" onPointerDown={(event) => event.stopPropagation()}>
      <div className="flex overflow-hidden rounded-md border border-line bg-panel">
        <ZoomButton label="Zoom out" onClick={() => onStep(1 / 1.5)}>
          −
        </ZoomButton>
        <span className="w-12 self-center pr-1 text-right" role="status" aria-label="Zoom">
          {zoom === null ? "" : `${Math.round(zoom * 100)} %`}
        </span>
        <DropdownMenu.Root modal={false}>
          <DropdownMenu.Trigger asChild>
            <button
              type="button"
              aria-label="Zooms, and how it is shrunk"
              title="Zooms, and how it is shrunk"
              className="grid min-h-7 w-6 place-items-center -outline-offset-2 hover:bg-raised"
            >
              <ChevronDown size={13} aria-hidden="true" />
            </button>
          </DropdownMenu.Trigger>
          <DropdownMenu.Portal>
            <DropdownMenu.Content
              align="end"
              sideOffset={4}
              collisionPadding={8}
              className="z-50 w-64 rounded-md border border-ink bg-raised p-1 text-small text-ink shadow-lg outline-none"
              onKeyDownCapture={(event) => stepFocus(event, ITEMS)}
            >
              {ZOOMS.map((each) => (
                <DropdownMenu.Item key={each} className={ENTRY} onSelect={() => onZoom(each)}>
                  {each * 100} %
                </DropdownMenu.Item>
              ))}
              <DropdownMenu.Separator className="my-1 h-px bg-line" />
              <DropdownMenu.CheckboxItem
                checked={asOthers}
                onCheckedChange={setAsOthers}
                className={`${ENTRY} items-start py-1`}
              >
                <span className="w-3 shrink-0" aria-hidden="true">
                  {asOthers ? "✓" : ""}
                </span>
                <span>
                  As other viewers shrink it
                  <span className="block text-caption">
                    By the mean of numbers, which shows a dither darker than the eye sees it. As a rule it is
                    the mean of light.
                  </span>
                </span>
              </DropdownMenu.CheckboxItem>
            </DropdownMenu.Content>
          </DropdownMenu.Portal>
        </DropdownMenu.Root>
        <ZoomButton label="Zoom in" onClick={() => onStep(1.5)}>
          +
        </ZoomButton>
        <ZoomButton label="1 : 1, actual size" onClick={() => onZoom(1)}>
          1 : 1
        </ZoomButton>
        <ZoomButton label="Fit the area" pressed={isFit} onClick={onFit}>
          fit
        </ZoomButton>
      </div>
      {asOthers && (
        <button
          type="button"
          title="Shrink it by the mean of light again"
          onClick={() => setAsOthers(false)}
          className="flex min-h-6 items-center gap-1.5 rounded-md border border-line bg-panel px-2 text-caption"
        >
          {zoom !== null && zoom < 1 ? "shrunk as other viewers do" : "below 100 %: as other viewers do"}
          <X size={12} aria-hidden="true" />
        </button>
      )}
    </div>
  );
}

function ZoomButton({
  label,
  pressed,
  onClick,
  children,
}: {
  label: string;
  pressed?: boolean;
  onClick: () => void;
  children: React.ReactNode;
}) {
  return (
    <button
      type="button"
      aria-label={label}
      title={label}
      aria-pressed={pressed}
      onPointerDown={(event) => event.stopPropagation()}
      onClick={onClick}
      className="min-h-7 min-w-7 px-2 -outline-offset-2 hover:bg-raised aria-pressed:font-bold"
    >
      {children}
    </button>
  );
}
