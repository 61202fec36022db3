interface Handlers<Wish, Answer> {
  ask: (wish: Wish, signal: AbortSignal) => Promise<Answer>;
  /** A wish whose answer is quicker and nearly as good: it is asked for first, and the wish itself when no newer one came. */
  quick?: (wish: Wish) => Wish | null;
  answer: (answer: Answer, wish: Wish) => void;
  problem: (error: unknown, wish: Wish) => void;
  busy?: (busy: boolean) => void;
}

/**
 * Asks one thing at a time. While it waits for an answer, only the newest wish is remembered, so that a control may
 * move as fast as it likes and the last place always arrives.
 */
export class Newest<Wish, Answer> {
  private wanted: { wish: Wish } | null = null;
  private running: AbortController | null = null;

  constructor(private readonly on: Handlers<Wish, Answer>) {}

  want(wish: Wish) {
    this.wanted = { wish };
    if (!this.running) void this.run();
  }

  /** Forget the wish and the answer that is under way. */
  stop() {
    this.wanted = null;
    if (this.running) this.on.busy?.(false);
    this.running?.abort();
    this.running = null;
  }

  private async run() {
    const control = new AbortController();
    this.running = control;
    this.on.busy?.(true);
    while (this.wanted && !control.signal.aborted) {
      const { wish } = this.wanted;
      this.wanted = null;
      try {
        const quick = this.on.quick?.(wish);
        for (const asked of quick ? [quick, wish] : [wish]) {
          if (this.wanted) break;
          const answer = await this.on.ask(asked, control.signal);
          if (control.signal.aborted) break;
          this.on.answer(answer, wish);
        }
      } catch (error) {
        if (!control.signal.aborted) this.on.problem(error, wish);
      }
    }
    if (this.running !== control) return;
    this.running = null;
    this.on.busy?.(false);
  }
}
