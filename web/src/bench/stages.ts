import type { QueryClient } from "@tanstack/react-query";
import { createContext, useContext } from "react";
import { useScreen } from "../shell/store";
import { type Later, whenIdle } from "../ui/later";
import type { Bench } from "./context";

/** A key of a stage that works everywhere on the bench. */
export interface StageKey {
  id: string;
  key: string;
  /** What the Keys panel says it does. */
  use: string;
  /** Done after the stage has been turned to. */
  run: () => void;
}

/** A stage: the row, the number keys, the Keys panel and what is loaded derive from this alone. */
export interface Stage {
  id: string;
  label: string;
  use: string;
  component: Later<object>;
  keys: readonly StageKey[];
  /** Done when a bench opens, whatever stage it opens at: what was begun before a reload goes on. */
  opened?: (queries: QueryClient, bench: Bench) => void;
}

export const StagesContext = createContext<readonly Stage[]>([]);

/** The stages in the order of the work. */
export function useStages() {
  return useContext(StagesContext);
}

/** Turn to the stage that has this key, and do what it does. */
export function runStageKey(stages: readonly Stage[], id: string) {
  for (const stage of stages) {
    const found = stage.keys.find((entry) => entry.id === id);
    if (!found) continue;
    useScreen.getState().setStage(stage.id);
    found.run();
  }
}

/** Load every stage ahead, when the browser has nothing else to do. */
export function loadAhead(stages: readonly Stage[]) {
  for (const stage of stages) whenIdle(() => void stage.component.load());
}
