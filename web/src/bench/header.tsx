import { memo } from "react";
import { Link } from "wouter";
import { useCompare } from "../api/colors";
import { LensSwitch } from "../lens/lens-switch";
import { Patch } from "../lens/patch";
import { SurroundSwitch } from "../shell/header";
import { useScreenParts } from "../shell/store";
import { TextButton } from "../ui/button";
import { Measured } from "../ui/measured";
import { NameField } from "../ui/name-field";
import { CheckCount } from "./check-count";
import { useCommands, useDrafted, usePalette, usePreview, useShown } from "./context";
import { History } from "./history";
import { KeysPanel } from "./keys-panel";
import { type SaveState, useSaveState } from "./use-changes";

const STATES: Record<SaveState, string> = {
  saved: "saved",
  saving: "saving …",
  waiting: "waiting for the server; your step goes through when it answers",
};

function InkAndGround() {
  const { ink, ground, setInk, setGround } = useScreenParts("ink", "ground", "setInk", "setGround");
  const compare = useCompare(ink, ground);
  const swap = () => {
    setInk(ground);
    setGround(ink);
  };
  return (
    <button
      type="button"
      onClick={swap}
      className="flex items-center gap-2 rounded px-1"
      title={`Ink ${ink} on ground ${ground}. Click to swap. Set them in the readout.`}
      aria-label={`${compare.data?.contrast.toFixed(1) ?? "–"} : 1 is the contrast of ink ${ink} on ground ${ground}. Swap them.`}
    >
      <span className="flex">
        <Patch className="size-6 rounded-full border-2 border-ink" color={ink} />
        <Patch className="-ml-2 size-6 rounded-full border border-ink" color={ground} />
      </span>
      <span className="w-[58px] text-left text-small">{compare.data?.contrast.toFixed(1) ?? "–"} : 1</span>
    </button>
  );
}

const Inks = memo(function Inks() {
  return (
    <Measured id="ink">
      <InkAndGround />
    </Measured>
  );
});

/** Name, saved state, undo, redo, history, ink and ground, surround. */
export function BenchHeader() {
  const palette = usePalette();
  const draft = useDrafted();
  const preview = usePreview();
  const shown = useShown();
  const { change, operate } = useCommands();
  const saveState = useSaveState(palette.id);
  const count = shown.length;
  return (
    <header className="flex min-h-12 shrink-0 flex-wrap items-center gap-x-2 gap-y-1 px-5">
      <Link href="/" className="text-label font-bold tracking-tight">
        Huvren
      </Link>
      <Link href="/" className="ml-2 shrink-0 text-small whitespace-nowrap text-quiet hover:underline">
        Shelf /
      </Link>
      <h1 className="flex min-w-0 shrink">
        <NameField
          label="Palette name"
          value={palette.name}
          onRename={(name) => void operate({ kind: "rename_palette", name })}
          className="field-sizing-content max-w-[30rem] px-1 text-sentence font-semibold tracking-[-0.01em]"
        />
      </h1>
      <p role="status" className="min-w-0 grow truncate text-small text-quiet">
        {count === 1 ? "1 swatch" : `${count.toLocaleString("en")} swatches`} ·{" "}
        {draft && (draft.kind === "reduce" || (preview?.kind === "step" && preview.proposal.changes)) ? (
          <strong className="font-semibold text-ink">preview, not kept</strong>
        ) : (
          STATES[saveState]
        )}
      </p>
      <TextButton
        disabled={!palette.can_undo && saveState === "saved"}
        onClick={() => void change({ kind: "undo" })}
        title={`Undo: ${palette.label}`}
      >
        Undo
      </TextButton>
      <TextButton disabled={!palette.can_redo} onClick={() => void change({ kind: "redo" })} title="Redo">
        Redo
      </TextButton>
      <History />
      <KeysPanel />
      <CheckCount />
      <Inks />
      <LensSwitch />
      <SurroundSwitch />
    </header>
  );
}
