import { DropdownMenu } from "radix-ui";
import type { OpenMenu } from "./menu";
import { stepFocus } from "./step-focus";

const ITEMS = { items: "[role=menuitem]:not([data-disabled])", keys: ["ArrowUp", "ArrowDown"] } as const;

/** The entries of a menu that was opened at a place of the window. */
export function MenuList({ open, label, onClose }: { open: OpenMenu; label: string; onClose: () => void }) {
  return (
    <DropdownMenu.Root open modal={false} onOpenChange={(stays) => !stays && onClose()}>
      <DropdownMenu.Trigger asChild>
        <button
          type="button"
          tabIndex={-1}
          aria-label={label}
          className="pointer-events-none fixed size-0"
          style={{ left: open.x, top: open.y }}
        />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="start"
          sideOffset={2}
          collisionPadding={8}
          className="z-50 max-h-[var(--radix-dropdown-menu-content-available-height)] min-w-52 overflow-y-auto rounded-md border border-ink bg-raised p-1 text-small text-ink shadow-lg outline-none"
          onKeyDownCapture={(event) => stepFocus(event, ITEMS)}
          onCloseAutoFocus={(event) => event.preventDefault()}
          onContextMenu={(event) => event.preventDefault()}
        >
          {open.entries.map((entry, place) =>
            entry === null ? (
              // biome-ignore lint/suspicious/noArrayIndexKey: lines have no name
              <DropdownMenu.Separator key={place} className="my-1 h-px bg-line" />
            ) : (
              <DropdownMenu.Item
                key={entry.label}
                disabled={entry.disabled ?? false}
                onSelect={entry.run}
                className="flex min-h-7 cursor-default items-center gap-6 rounded px-2 outline-none data-disabled:text-quiet data-highlighted:bg-ink data-highlighted:text-ground"
              >
                <span className="grow">{entry.label}</span>
                {entry.keys && <span className="text-caption">{entry.keys}</span>}
              </DropdownMenu.Item>
            ),
          )}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
