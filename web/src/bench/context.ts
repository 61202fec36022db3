import { type QueryClient, useQuery } from "@tanstack/react-query";
import { createContext, useContext } from "react";
import { createStore, type StoreApi, useStore } from "zustand";
import { Asking, useAnswered, useCached, useFailed, useIsAsking } from "../api/asking";
import type { Change } from "../api/commands";
import { ask, KEYS } from "../api/queries";
import { fitting, isListTooShort, isTuned } from "../api/recipe";
import { Problem } from "../api/request";
import type { Checks, Draft, Link, Menus, Operation, Palette, Preview, Recipe, Swatch } from "../api/types";
import { inWords } from "../api/words";
import { useScreen } from "../shell/store";
import { ahead, isForeseen, type Move } from "./ahead";
import { triedRecipe, useTriedRecipes } from "./tried";
import { makeChange } from "./use-changes";

/** What is done on a bench. The functions stay the same as long as the bench is open. */
export interface Commands {
  showPicture: (id: string) => void;
  setDraft: (draft: Draft) => void;
  /** Try a recipe out; it is remembered until it is kept or put back, whatever is done meanwhile. */
  tryRecipe: (picture: string, recipe: Recipe) => void;
  /** Nothing is tried out any more. */
  discard: () => void;
  /** As `discard`, by the artist's wish: a recipe that was tried out is forgotten. */
  putBack: () => void;
  keep: () => Promise<Palette | null>;
  change: (change: Change) => Promise<Palette | null>;
  /** Before something else is done: keep a reduction that is tried out, put any other draft back. False if it failed. */
  settle: () => Promise<boolean>;
  /** Settle the draft, then apply an operation. */
  operate: (operation: Operation) => Promise<Palette | null>;
  /** Several of these as one: nothing that is begun later comes between. */
  inTurn: <Result>(run: (unbroken: Unbroken) => Promise<Result>) => Promise<Result>;
}

/** What is done within a turn. */
export interface Unbroken {
  settle: () => Promise<boolean>;
  /** once : an id by which the step is known where it may be sent again with another page. */
  change: (change: Change, once?: string) => Promise<Palette | null>;
}

/** What the screen alone knows of a bench: what is tried out, whether it is being kept, which picture is looked at. */
interface View {
  draft: Draft | null;
  keeping: boolean;
  looked: string | null;
  /** Moves that are seen though the server has not answered yet. */
  moves: readonly Move[];
}

/** A bench: the palette's id, its view, the preview that is asked for, and what can be done. Answers lie in the query cache. */
export interface Bench {
  id: string;
  view: StoreApi<View>;
  asking: Asking<Preview>;
  /** What the checks say of what is shown; see `checks`. */
  checking: Asking<Checks>;
  commands: Commands;
  /** Put drafts away when the palette takes another step, for as long as the bench is open; the function that is answered ends that. */
  watch: () => () => void;
  isOpen: () => boolean;
}

const GROUPS: Palette["groups"] = [];

/** The linked picture of a palette that is looked at. */
export function linkOf(palette: Palette, looked: string | null): Link | undefined {
  return palette.links.find((entry) => entry.picture.id === looked) ?? palette.links[0];
}

export function createBench(queries: QueryClient, id: string, looked: string | null): Bench {
  const view = createStore<View>(() => ({ draft: null, keeping: false, looked, moves: [] }));
  const palette = () => queries.getQueryData<Palette>(KEYS.palette(id));
  const menus = () => queries.getQueryData<Menus>(ask.menus().queryKey);
  const asking = new Asking<Preview>(queries, {
    onProblem: (error) => {
      // What a stage cannot do is said in the stage; anything else is a message.
      const step = view.getState().draft?.kind === "step";
      if (!(step && error instanceof Problem && error.status === 422))
        useScreen.getState().say(inWords(error), { kind: "wrong" });
    },
  });
  const change = makeChange(queries, id);

  const setDraft = (draft: Draft) => {
    const now = palette();
    const known = menus();
    if (!now) return;
    view.setState({ draft });
    // A list of too few colors gives nothing, and is not asked for.
    if (known && draft.kind === "reduce" && isListTooShort(draft.recipe, known)) {
      asking.forget();
      return;
    }
    // Colors that are tuned take longer: those as they are chosen are shown until then.
    const quick =
      known && draft.kind === "reduce" && isTuned(draft.recipe, known)
        ? ask.preview(now, { ...draft, recipe: { ...draft.recipe, tune: false } })
        : null;
    asking.want(ask.preview(now, draft), quick);
  };
  const discard = () => {
    asking.forget();
    if (view.getState().draft) view.setState({ draft: null });
  };
  const tryRecipe = (picture: string, wanted: Recipe) => {
    const known = menus();
    const recipe = known ? fitting(wanted, known) : wanted;
    useTriedRecipes.getState().remember(id, picture, recipe);
    setDraft({ kind: "reduce", picture, recipe });
  };
  const putBack = () => {
    const { draft } = view.getState();
    if (draft?.kind === "reduce") useTriedRecipes.getState().forget(id, draft.picture);
    discard();
  };
  // Whatever changes the palette is done in the order in which it was asked for, though one has to wait for more than another.
  let last: Promise<unknown> = Promise.resolve();
  const inTurn: Commands["inTurn"] = (run) => {
    const turn = last.then(() => run({ settle, change: step }));
    last = turn.catch(() => null);
    return turn;
  };
  const step = async (wanted: Change, once?: string) => {
    if (wanted.kind !== "reduce") return change(wanted, once);
    // What is kept is not tried out any more; where it could not be, it still is.
    const { forget, remember } = useTriedRecipes.getState();
    const tried = triedRecipe(id, wanted.picture);
    forget(id, wanted.picture);
    const kept = await change(wanted);
    if (!kept && tried) remember(id, wanted.picture, tried);
    return kept;
  };
  const keepNow = async (draft: Draft) => {
    view.setState({ keeping: true });
    try {
      return await step(draft.kind === "step" ? { kind: "operation", operation: draft.operation } : draft);
    } finally {
      view.setState({ keeping: false });
    }
  };
  // A reduction that is tried out was asked for, so it is kept before anything else is done. What a view proposes by
  // itself is not: the view proposes it anew for the palette as it then is.
  const settle = async () => {
    const { draft } = view.getState();
    if (draft?.kind === "reduce") return (await keepNow(draft)) !== null;
    discard();
    return true;
  };
  const showPicture = (picture: string) => {
    if (view.getState().draft?.kind === "reduce") discard();
    view.setState({ looked: picture });
  };
  const operate = async (operation: Operation) => {
    const now = palette();
    const move = operation.kind === "move_swatches" && now && isForeseen(now) ? { ...operation } : null;
    if (move) view.setState(({ moves }) => ({ moves: [...moves, move] }));
    try {
      return await inTurn(async () => ((await settle()) ? step({ kind: "operation", operation }) : null));
    } finally {
      if (move) view.setState(({ moves }) => ({ moves: moves.filter((entry) => entry !== move) }));
    }
  };
  const keep = async () => {
    const { draft, keeping } = view.getState();
    if (!draft) return palette() ?? null;
    // Asked for twice it is kept once.
    if (keeping) return null;
    view.setState({ keeping: true });
    return inTurn(() => keepNow(draft));
  };
  let watching = 0;
  const watch = () => {
    let revision = palette()?.revision;
    const hash = JSON.stringify(KEYS.palette(id));
    watching += 1;
    const end = queries.getQueryCache().subscribe(({ query }) => {
      if (query.queryHash !== hash) return;
      const next = (query.state.data as Palette | undefined)?.revision;
      if (next === undefined || next === revision) return;
      // A preview is made for one state of the palette: any other step puts it away, before a view asks for it anew.
      revision = next;
      discard();
    });
    return () => {
      watching -= 1;
      end();
    };
  };
  return {
    id,
    view,
    asking,
    checking: new Asking<Checks>(queries, { keeps: true }),
    commands: {
      showPicture,
      setDraft,
      tryRecipe,
      discard,
      putBack,
      keep,
      change: (wanted) => inTurn(() => step(wanted)),
      settle: () => inTurn(settle),
      operate,
      inTurn,
    },
    watch,
    isOpen: () => watching > 0,
  };
}

/** The swatches on screen at this moment, for what is not drawn. */
export function shownNow(queries: QueryClient, { id, asking, view }: Bench): Swatch[] {
  const { answered } = asking.snapshot();
  const preview = answered && queries.getQueryData<Preview>(answered.queryKey);
  const own = queries.getQueryData<Palette>(KEYS.palette(id))?.swatches ?? [];
  return preview ? (preview.proposal.swatches as Swatch[]) : ahead(own, view.getState().moves);
}

export const BenchContext = createContext<Bench | null>(null);

export function useBench(): Bench {
  const bench = useContext(BenchContext);
  if (!bench) throw new Error("This needs a bench around it.");
  return bench;
}

/** What is done on this bench; never another object. */
export function useCommands(): Commands {
  return useBench().commands;
}

const whole = (palette: Palette) => palette;

/** The palette on the bench, or the part of it that is looked at. */
export function usePalette(): Palette;
export function usePalette<Part>(select: (palette: Palette) => Part): Part;
export function usePalette<Part>(select?: (palette: Palette) => Part): Part | Palette {
  const { id } = useBench();
  const query = useQuery({ ...ask.palette(id), enabled: false, select: select ?? (whole as never) });
  return query.data as Part | Palette;
}

/** The menus, which are there before a bench opens. */
export function useMenus(): Menus {
  return useQuery({ ...ask.menus(), enabled: false }).data as Menus;
}

/** What is tried out and not kept. */
export function useDrafted(): Draft | null {
  return useStore(useBench().view, (view) => view.draft);
}

/** The recipe of the draft where that is a reduction. */
export function useDraftRecipe(): Recipe | null {
  return useStore(useBench().view, (view) => (view.draft?.kind === "reduce" ? view.draft.recipe : null));
}

/** What the draft would give, once that is answered. */
export function usePreview(): Preview | null {
  return useCached(useAnswered(useBench().asking)).data ?? null;
}

/** Why the draft cannot be done. */
export function useDraftProblem(): string | null {
  const { error } = useCached(useFailed(useBench().asking));
  return error ? inWords(error) : null;
}

/** Whether a preview is being asked for. */
export function useIsBusy(): boolean {
  return useIsAsking(useBench().asking);
}

export function useIsKeeping(): boolean {
  return useStore(useBench().view, (view) => view.keeping);
}

const itsSwatches = (palette: Palette) => palette.swatches;
const itsGroups = (palette: Palette) => palette.groups;
const previewed = (preview: Preview) => preview.proposal.swatches as Swatch[];
const previewedGroups = (preview: Preview) => preview.proposal.groups as Palette["groups"];

const itsMoves = ({ moves }: View) => moves;

/** The swatches on screen: the palette's, moved where they have just been put, or those of a preview. */
export function useShown(): Swatch[] {
  const { asking, view } = useBench();
  const tried = useCached(useAnswered(asking), previewed).data;
  const own = usePalette(itsSwatches);
  const moves = useStore(view, itsMoves);
  return tried ?? ahead(own, moves);
}

export function useGroups(): Palette["groups"] {
  const tried = useCached(useAnswered(useBench().asking), previewedGroups).data;
  const own = usePalette(itsGroups);
  return tried ?? own ?? GROUPS;
}

/** The linked picture that is looked at, where there is one. */
export function useLinked(): Link | undefined {
  const looked = useStore(useBench().view, (view) => view.looked);
  return usePalette((palette) => linkOf(palette, looked));
}
