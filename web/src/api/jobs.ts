import { useQuery } from "@tanstack/react-query";
import { ask } from "./queries";
import type { Job, Palette } from "./types";

export const POLL_MS = 400;

export function isOpen(job: Job) {
  return job.state === "waiting" || job.state === "working";
}

/** Whether an answer is a job that will change the palette, rather than the palette itself. */
export function isJob(answer: Palette | Job): answer is Job {
  return "share" in answer;
}

/** The artist's jobs, newest first, looked at again and again while one is open. */
export function useJobs() {
  const query = useQuery({
    ...ask.jobs(),
    refetchInterval: (asked) => (asked.state.data?.some(isOpen) ? POLL_MS : false),
  });
  return query.data ?? [];
}
