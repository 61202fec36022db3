import { useQuery } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useState } from "react";
import { ask } from "../../api/queries";
import type { CheckMenu, CheckReport, CheckSetting } from "../../api/types";
import { useChecks, useChecksAnswer, useReports, type Value } from "../../bench/checks";
import { usePalette } from "../../bench/context";
import { useScreen } from "../../shell/store";
import { Sentence } from "../../ui/sentence";
import { DrawingView } from "./drawing-view";
import { LimitSets, TriedLimits } from "./limits";
import { Mends } from "./mends";
import { SettingWord } from "./setting-word";
import { SAID, VERDICTS, VerdictMark, verdictOf } from "./verdict";
import { Why } from "./why";

type OnHover = (ids: readonly string[]) => void;
type Change = (id: string, value: Value) => void;
const NOBODY: ReadonlySet<string> = new Set();
const NONE: readonly string[] = [];

/** The questions with their verdicts; the worst first, if that is wanted. */
function Questions({ checks, reports }: { checks: CheckMenu[]; reports: CheckReport[] }) {
  const { open, worstFirst, set } = useChecks();
  const by = new Map(reports.map((report) => [report.id, report]));
  const rank = (id: string) => VERDICTS.indexOf(verdictOf(by.get(id)));
  const shown = worstFirst ? checks.toSorted((a, b) => rank(a.id) - rank(b.id)) : checks;
  const step = (event: React.KeyboardEvent) => {
    const way = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (!way) return;
    event.preventDefault();
    event.stopPropagation();
    const at = shown.findIndex((check) => check.id === open);
    const next = shown[(at + way + shown.length) % shown.length];
    if (!next) return;
    set({ open: next.id });
    document.getElementById(`question-${next.id}`)?.focus();
  };
  return (
    <div className="flex w-[270px] shrink-0 flex-col border-r border-line pr-3">
      <label className="flex min-h-7 items-center gap-2 text-small text-quiet">
        <input
          type="checkbox"
          className="accent-ink"
          checked={worstFirst}
          onChange={(event) => set({ worstFirst: event.target.checked })}
        />
        worst first
      </label>
      <div
        role="tablist"
        aria-label="Questions"
        aria-orientation="vertical"
        className="min-h-0 grow overflow-y-auto"
        onKeyDown={step}
      >
        {shown.map((check) => {
          const report = by.get(check.id);
          const verdict = verdictOf(report);
          const chosen = check.id === open;
          const sentence = report?.parts.map((part) => part.text).join("") ?? "";
          return (
            <button
              key={check.id}
              id={`question-${check.id}`}
              type="button"
              role="tab"
              aria-selected={chosen}
              tabIndex={chosen ? 0 : -1}
              className={`grid w-full grid-cols-[20px_1fr] rounded px-1.5 py-1 text-left outline-offset-[-2px] ${
                chosen ? "bg-raised shadow-[inset_2px_0_0_var(--ink)]" : "hover:bg-raised"
              } ${verdict === "nothing" ? "text-quiet" : ""}`}
              onClick={() => set({ open: check.id })}
            >
              <span className="pt-0.5">
                <VerdictMark verdict={verdict} />
              </span>
              <span className="min-w-0">
                <span className={`block truncate text-body ${verdict === "holds" ? "" : "font-semibold"}`}>
                  {check.question}
                </span>
                <span className="block truncate text-small leading-snug text-quiet" title={sentence}>
                  {sentence}
                </span>
              </span>
            </button>
          );
        })}
      </div>
    </div>
  );
}

/** The sentence of a report; its parts mark their swatches wherever those are drawn. */
function Parts({
  report,
  pointed,
  onHover,
}: {
  report: CheckReport;
  pointed: ReadonlySet<string>;
  onHover: OnHover;
}) {
  const select = useScreen((screen) => screen.select);
  return (
    <p className="text-body leading-relaxed" role="status">
      <b className="font-semibold">{SAID[verdictOf(report)]}</b>
      {" · "}
      {report.parts.map((part, place) =>
        part.ids.length ? (
          <button
            // biome-ignore lint/suspicious/noArrayIndexKey: parts have no identity but their place
            key={place}
            type="button"
            className={`rounded-xs text-left font-semibold decoration-1 underline-offset-4 hover:underline focus-visible:underline ${
              part.ids.some((id) => pointed.has(id)) ? "underline" : ""
            }`}
            title="Select these swatches"
            onPointerEnter={() => onHover(part.ids)}
            onPointerLeave={() => onHover([])}
            onFocus={() => onHover(part.ids)}
            onBlur={() => onHover([])}
            onClick={() => select([...part.ids])}
          >
            {part.text}
          </button>
        ) : (
          part.text
        ),
      )}
    </p>
  );
}

/** The picture of the check, its swatches marked as they are pointed at anywhere. */
function Picture({
  check,
  pointed,
  onHover,
}: {
  check: CheckMenu;
  pointed: ReadonlySet<string>;
  onHover: OnHover;
}) {
  const { views, setView } = useChecks();
  const { answer } = useChecksAnswer();
  const inStrip = useScreen((screen) => screen.hovered);
  const hovered = useMemo(
    () => (pointed.size || !inStrip ? pointed : new Set([inStrip])),
    [pointed, inStrip],
  );
  const drawing = answer?.open?.id === check.id ? answer.open.drawing : null;
  if (!drawing) return <div className="min-h-0 grow" />;
  const { handle } = drawing;
  const turned =
    handle && (views[check.id]?.[handle.view] ?? check.views.find(({ id }) => id === handle.view)?.usual);
  return (
    <div className="min-h-0 grow overflow-y-auto py-1 pr-1">
      <DrawingView
        drawing={drawing}
        hovered={hovered}
        onHover={onHover}
        {...(handle
          ? { angle: Number(turned), onTurn: (degrees: number) => setView(check.id, handle.view, degrees) }
          : {})}
      />
    </div>
  );
}

/** The limits that decide, and how the picture is shown, as one sentence each. */
function Settings({ check }: { check: CheckMenu }) {
  const palette = usePalette();
  const { views, limits, set, setView } = useChecks();
  const { answer } = useChecksAnswer();
  const held = limits ?? palette.limits;
  const handle = answer?.open?.id === check.id ? answer.open.drawing.handle?.view : undefined;
  const shown = check.views.filter((view) => view.id !== handle);
  const words = (settings: CheckMenu["limits"], heldOf: (setting: CheckSetting) => Value, change: Change) =>
    settings.map((setting, place) => (
      <span key={setting.id} title={setting.use}>
        {place > 0 && ", "}
        {setting.label}{" "}
        <SettingWord
          setting={setting}
          value={heldOf(setting)}
          onChange={(value) => change(setting.id, value)}
        />
      </span>
    ));
  return (
    <div className="my-1 flex flex-wrap items-baseline gap-x-5 [&_p]:text-body [&_p]:leading-[1.9]">
      <Sentence label="Limits">
        {words(
          check.limits,
          (setting) => held[check.id]?.[setting.id] ?? setting.usual,
          (id, value) => set({ limits: { ...held, [check.id]: { ...held[check.id], [id]: value } } }),
        )}
      </Sentence>
      <TriedLimits />
      {shown.length > 0 && (
        <Sentence label="How the picture is shown">
          <span className="text-quiet">drawn with </span>
          {words(
            shown,
            (setting) => views[check.id]?.[setting.id] ?? setting.usual,
            (id, value) => setView(check.id, id, value),
          )}
        </Sentence>
      )}
    </div>
  );
}

/** The questions, and the one that is looked at: sentence, picture, mends. */
export function CheckStage() {
  const menus = useQuery(ask.checkMenus()).data;
  const open = useChecks((state) => state.open);
  const { answer, problem } = useChecksAnswer();
  const { reports } = useReports();
  const mark = useScreen((screen) => screen.mark);
  const [pointed, setPointed] = useState<ReadonlySet<string>>(NOBODY);
  const report = reports.find((entry) => entry.id === open);
  const concerned = report && report.verdict !== "holds" ? report.ids : NONE;
  const onHover = useCallback((ids: readonly string[]) => setPointed(ids.length ? new Set(ids) : NOBODY), []);
  // The strip marks what is pointed at, else whatever the check is about.
  useEffect(() => {
    mark(pointed.size ? [...pointed] : concerned);
    return () => mark(NONE);
  }, [mark, pointed, concerned]);
  const check = menus?.checks.find((entry) => entry.id === open) ?? menus?.checks[0];
  if (!menus || !check) return null;
  return (
    <div className="flex min-h-0 grow gap-5">
      <Questions checks={menus.checks} reports={reports} />
      <section className="flex min-w-0 grow flex-col" aria-label={check.question}>
        <div className="flex items-baseline gap-3">
          <h2 className="shrink-0 text-sentence font-semibold whitespace-nowrap">{check.question}</h2>
          <span className="grow" />
          <Why check={check} />
          <LimitSets />
        </div>
        {report && <Parts report={report} pointed={pointed} onHover={onHover} />}
        {problem && (
          <p role="alert" className="text-small font-semibold">
            {problem}
          </p>
        )}
        {answer?.notes.map((note) => (
          <p key={note} className="text-small text-quiet">
            {note} It is as usual instead.
          </p>
        ))}
        <Settings check={check} />
        <Picture check={check} pointed={pointed} onHover={onHover} />
        <Mends />
      </section>
    </div>
  );
}
