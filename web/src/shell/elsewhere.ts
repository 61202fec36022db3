/** Steps that are made elsewhere: in another tab of this browser, or by somebody at another one. */

import type { QueryClient } from "@tanstack/react-query";
import { hearServer, type Told } from "../api/changes";
import { KEYS } from "../api/keys";
import type { Palette } from "../api/types";

const CHANNEL = "huvren.steps";
/** Steps that follow each other closely are fetched once. */
const SETTLE_MS = 100;
/** A page with thousands of cards draws them for some seconds before it comes to hearing. */
const FRESH_MS = 5_000;
const channel = typeof BroadcastChannel === "undefined" ? null : new BroadcastChannel(CHANNEL);

/** Tell the other tabs of this browser. */
function pass(told: Told) {
  channel?.postMessage(told);
}

/** How many steps wait for the other side at most; what is forgotten is only fetched once more. */
const MOST_WAITING = 64;

/**
 * Steps that were made here, of one palette, and what was told of them. Both come in the order in which the steps were made, and
 * either may come first: what is told late of a step that others made here have followed is no news.
 */
class OwnSteps {
  private made: number[] = [];
  private told: number[] = [];

  make(revision: number) {
    const place = this.told.lastIndexOf(revision);
    if (place < 0) this.made = [...this.made, revision].slice(-MOST_WAITING);
    else this.told = this.told.slice(place + 1);
  }

  /** Whether what is told is a step that was made here before the newest one. */
  tell(revision: number): boolean {
    const place = this.made.indexOf(revision);
    if (place < 0) this.told = [...this.told, revision].slice(-MOST_WAITING);
    else this.made = this.made.slice(place + 1);
    return place >= 0 && this.made.length > 0;
  }
}
const ownSteps = new Map<string, OwnSteps>();
function own(palette: string) {
  const steps = ownSteps.get(palette) ?? new OwnSteps();
  ownSteps.set(palette, steps);
  return steps;
}

/** A step of this window was made: other tabs are told, and its announcement is awaited. */
export function tellTabs(palette: string, revision: number) {
  own(palette).make(revision);
  pass({ what: "step", palette, revision });
}

/** Does a work; where it is asked for again meanwhile, once more when it has ended, and never two at a time. */
function oneAtATime(work: () => Promise<unknown>): () => void {
  let isRunning = false;
  let isWanted = false;
  return function run() {
    isWanted = isRunning;
    if (isRunning) return;
    isRunning = true;
    void work().finally(() => {
      isRunning = false;
      if (isWanted) run();
    });
  };
}

/** What was told of palettes, and the fetching of those that stand at another step than the one known here. */
class Palettes {
  private readonly told = new Map<string, { revision: number | null; isNew: boolean; comeUp: () => void }>();

  constructor(private readonly queries: QueryClient) {}

  /** revision : where it stands now; null where that is not known. */
  tell(id: string, revision: number | null) {
    const comeUp = this.told.get(id)?.comeUp ?? oneAtATime(() => this.comeUp(id));
    this.told.set(id, { revision, isNew: true, comeUp });
  }

  private isChanging(id: string) {
    return this.queries.isMutating({ mutationKey: KEYS.changes(id) }) > 0;
  }

  private async comeUp(id: string) {
    if (this.isChanging(id)) {
      // The answer to one's own step brings its state, or says that it was made on an older one.
      await new Promise<void>((done) => {
        const stop = this.queries.getMutationCache().subscribe(() => {
          if (this.isChanging(id)) return;
          stop();
          done();
        });
      });
    }
    const told = this.told.get(id);
    const known = this.queries.getQueryData<Palette>(KEYS.palette(id));
    if (!told?.isNew) return;
    told.isNew = false;
    if (!known || known.revision === told.revision) return;
    const [state] = [KEYS.palette(id), KEYS.history(id)].map((queryKey) =>
      this.queries.invalidateQueries({ queryKey }),
    );
    await state;
  }

  catchUp() {
    for (const { isNew, comeUp } of this.told.values()) if (isNew) comeUp();
  }
}

/** Keep up with what is made elsewhere while `palette`, or the shelf, is looked at; the function that is answered ends that. */
export function keepUp(queries: QueryClient, palette: string | null): () => void {
  const palettes = new Palettes(queries);
  ownSteps.clear();
  const fetchShelf = oneAtATime(() => queries.invalidateQueries({ queryKey: KEYS.shelf }));
  const begun = performance.now();
  let isShelfOld = false;
  let settling: ReturnType<typeof setTimeout> | undefined;
  const settle = () => {
    clearTimeout(settling);
    settling = undefined;
    palettes.catchUp();
    if (isShelfOld) fetchShelf();
    isShelfOld = false;
  };
  const hear = (told: Told) => {
    // After an interruption nobody knows which announcements will never come.
    if (told.what === "begun" || told.what === "anything") ownSteps.clear();
    if (told.what === "step") {
      if (!own(told.palette).tell(told.revision)) palettes.tell(told.palette, told.revision);
    } else if (told.what === "anything" && palette) palettes.tell(palette, null);
    // A stream that begins with the page, and not after an interruption, has nothing to tell that was not just fetched.
    isShelfOld ||= told.what !== "begun" || performance.now() - begun > FRESH_MS;
    settling ??= setTimeout(settle, SETTLE_MS);
  };
  const hearTab = ({ data }: MessageEvent<Told>) => hear(data);
  channel?.addEventListener("message", hearTab);
  // One window hears for all of the browser; what it may have missed before is known to none.
  const stop = hearServer(
    palette,
    (told) => {
      pass(told);
      hear(told);
    },
    () => pass({ what: "anything" }),
  );
  return () => {
    channel?.removeEventListener("message", hearTab);
    stop();
    settle();
  };
}
