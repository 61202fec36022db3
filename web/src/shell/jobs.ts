import { type QueryClient, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { actOnJob, type JobAction } from "../api/commands";
import { isOpen, POLL_MS, useJobs } from "../api/jobs";
import { KEYS } from "../api/queries";
import { Problem } from "../api/request";
import type { Job } from "../api/types";
import { inWords } from "../api/words";
import { useScreen } from "./store";

/** Wait until a job has ended. Resolves to its palette, or null where it was called off; throws what went wrong. */
export async function ended(queries: QueryClient, id: string): Promise<string | null> {
  await queries.invalidateQueries({ queryKey: KEYS.jobs });
  for (;;) {
    const job = queries.getQueryData<Job[]>(KEYS.jobs)?.find((entry) => entry.id === id);
    if (job && !isOpen(job)) {
      if (job.state === "failed") throw new Problem(422, "job_failed", job.step);
      return job.state === "done" ? (job.palette ?? null) : null;
    }
    await new Promise((resolve) => setTimeout(resolve, POLL_MS));
    await queries.refetchQueries({ queryKey: KEYS.jobs });
  }
}

/** Cancel, try again, or forget a job. */
export function useJobActions() {
  const queries = useQueryClient();
  const say = useScreen((screen) => screen.say);
  return async (what: JobAction, id: string) => {
    try {
      await actOnJob(what, id);
    } catch (error) {
      say(inWords(error), { kind: "wrong" });
    }
    await queries.invalidateQueries({ queryKey: KEYS.jobs });
  };
}

/** What a job changes is shown when it ends, wherever the artist is by then. */
export function useJobsShown() {
  const jobs = useJobs();
  const queries = useQueryClient();
  const open = useRef(new Set<string>());
  useEffect(() => {
    for (const job of jobs) {
      if (isOpen(job)) {
        open.current.add(job.id);
      } else if (open.current.delete(job.id)) {
        if (job.palette) queries.invalidateQueries({ queryKey: KEYS.palette(job.palette) });
        queries.invalidateQueries({ queryKey: KEYS.shelf });
      }
    }
  }, [jobs, queries]);
}
