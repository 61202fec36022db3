import { create } from "zustand";
import { useShallow } from "zustand/react/shallow";

export const SURROUNDS = ["light", "mid", "dark"] as const;
export type Surround = (typeof SURROUNDS)[number];

export interface Notice {
  id: number;
  text: string;
  kind: "said" | "wrong";
  action?: { label: string; run: () => void };
  /** What it is about: such as a palette, whose next step settles it. */
  about?: string;
}

/** What the screen alone knows; everything else lives in the query cache. */
interface Screen {
  surround: Surround;
  stage: string;
  selected: string[];
  /** The same as a set: asked for every swatch that is drawn. */
  selection: ReadonlySet<string>;
  /** Whether somebody selected them; not so for the first swatch of a bench that opens. */
  isPicked: boolean;
  anchor: string | null;
  hovered: string | null;
  /** Swatches that something on the screen is about: the strip marks them. */
  marks: ReadonlySet<string>;
  /** The color of one swatch while a control is being dragged, before it is kept. */
  dragging: { id: string; css: string } | null;
  ink: string;
  ground: string;
  notices: Notice[];
  /** The editor's plane, and the space of its sliders. */
  plane: string;
  space: string;
  /** Pictures are drawn smaller by the mean of sRGB numbers, as other viewers do, in place of the mean of light. */
  asOthers: boolean;
  setAsOthers: (asOthers: boolean) => void;
  setPlane: (plane: string) => void;
  setSpace: (space: string) => void;
  setSurround: (surround: Surround) => void;
  setStage: (stage: string) => void;
  select: (ids: string[], anchor?: string | null) => void;
  /** Select what nobody has chosen, so that something is. */
  selectUnasked: (ids: string[]) => void;
  hover: (id: string | null) => void;
  mark: (ids: readonly string[]) => void;
  drag: (dragging: { id: string; css: string } | null) => void;
  setInk: (hex: string) => void;
  setGround: (hex: string) => void;
  say: (text: string, more?: Partial<Pick<Notice, "kind" | "action" | "about">>) => void;
  dismiss: (id: number) => void;
  /** What went wrong is over, with this or with anything: a step has gone well since, or another place is looked at. What offers to be done again stays. */
  settleWrong: (about?: string) => void;
}

/** The swatch that one is at: the one that a selection began with, or else the last of it. */
export const currentOf = ({
  anchor,
  selection,
  selected,
}: Pick<Screen, "anchor" | "selection" | "selected">) =>
  anchor && selection.has(anchor) ? anchor : selected.at(-1);

function remembered<Value extends string>(key: string, fallback: Value, allowed?: readonly Value[]): Value {
  const value = localStorage.getItem(`huvren.${key}`) as Value | null;
  return value && (!allowed || allowed.includes(value)) ? value : fallback;
}

function remember(key: string, value: string) {
  localStorage.setItem(`huvren.${key}`, value);
}

const first = remembered("surround", "light", SURROUNDS);
document.documentElement.dataset.surround = first;
let nextNotice = 1;
const NO_MARKS: ReadonlySet<string> = new Set();

export const useScreen = create<Screen>((set, get) => ({
  surround: first,
  stage: "reduce",
  selected: [],
  selection: new Set(),
  isPicked: false,
  anchor: null,
  hovered: null,
  marks: NO_MARKS,
  dragging: null,
  ink: remembered("ink", "#1b1a1d"),
  ground: remembered("ground", "#f3ead6"),
  notices: [],
  plane: remembered("plane", "chroma-lightness"),
  space: remembered("space", "oklch"),
  asOthers: false,
  setAsOthers: (asOthers) => set({ asOthers }),
  setPlane: (plane) => {
    remember("plane", plane);
    set({ plane });
  },
  setSpace: (space) => {
    remember("space", space);
    set({ space });
  },
  setSurround: (surround) => {
    document.documentElement.dataset.surround = surround;
    remember("surround", surround);
    set({ surround });
  },
  setStage: (stage) => set({ stage, hovered: null, marks: NO_MARKS }),
  select: (wanted, anchor) =>
    set(({ selected, selection }) => {
      // Pressing and letting go of what is selected already is nothing new to whoever shows it.
      const isSame = wanted.length === selected.length && wanted.every((id, place) => id === selected[place]);
      return {
        selected: isSame ? selected : wanted,
        selection: isSame ? selection : new Set(wanted),
        isPicked: true,
        anchor: anchor === undefined ? (wanted.at(-1) ?? null) : anchor,
        dragging: null,
      };
    }),
  selectUnasked: (selected) => {
    get().select(selected);
    set({ isPicked: false });
  },
  hover: (hovered) => set({ hovered }),
  mark: (ids) => set({ marks: ids.length ? new Set(ids) : NO_MARKS }),
  drag: (dragging) => set({ dragging }),
  setInk: (ink) => {
    remember("ink", ink);
    set({ ink });
  },
  setGround: (ground) => {
    remember("ground", ground);
    set({ ground });
  },
  say: (text, more = {}) => {
    const id = nextNotice++;
    const kind = more.kind ?? "said";
    set({
      notices: [
        ...get().notices.filter((n) => n.text !== text),
        { id, text, kind, action: more.action, about: more.about },
      ],
    });
    if (kind === "said") setTimeout(() => get().dismiss(id), more.action ? 12_000 : 5_000);
  },
  settleWrong: (about) =>
    set(({ notices }) => ({
      notices: notices.filter(
        (notice) =>
          notice.kind !== "wrong" || notice.action || (about !== undefined && notice.about !== about),
      ),
    })),
  dismiss: (id) => set({ notices: get().notices.filter((notice) => notice.id !== id) }),
}));

/** Some parts of the screen's state; whoever takes them is drawn anew by these alone. */
export function useScreenParts<Part extends keyof Screen>(...parts: Part[]): Pick<Screen, Part> {
  return useScreen(
    useShallow(
      (screen) => Object.fromEntries(parts.map((part) => [part, screen[part]])) as Pick<Screen, Part>,
    ),
  );
}
