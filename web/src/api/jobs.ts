import { type QueryClient, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { useScreen } from "../shell/store";
import { client, type Job, type Palette, Problem, unwrap } from "./client";

const POLL_MS = 400;
const KEY = ["jobs"] as const;

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
    queryKey: KEY,
    queryFn: () => unwrap(client.GET("/api/jobs")),
    refetchInterval: (asked) => (asked.state.data?.some(isOpen) ? POLL_MS : false),
  });
  return query.data ?? [];
}

/** Wait until a job has ended. Resolves to its palette, or null where it was called off; throws what went wrong. */
export async function ended(queries: QueryClient, id: string): Promise<string | null> {
  await queries.invalidateQueries({ queryKey: KEY });
  for (;;) {
    const job = queries.getQueryData<Job[]>(KEY)?.find((entry) => entry.id === id);
    if (job && !isOpen(job)) {
      if (job.state === "failed") throw new Problem(422, "job_failed", job.step);
      return job.state === "done" ? (job.palette ?? null) : null;
    }
    await new Promise((resolve) => setTimeout(resolve, POLL_MS));
    await queries.refetchQueries({ queryKey: KEY });
  }
}

/** Cancel, try again, or forget a job. */
export function useJobActions() {
  const queries = useQueryClient();
  const say = useScreen((screen) => screen.say);
  return async (what: "cancel" | "retry" | "clear", id: string) => {
    const params = { path: { job_id: id } };
    try {
      if (what === "cancel") await unwrap(client.POST("/api/jobs/{job_id}/cancel", { params }));
      else if (what === "retry") await unwrap(client.POST("/api/jobs/{job_id}/retry", { params }));
      else await unwrap(client.DELETE("/api/jobs/{job_id}", { params }));
    } catch (error) {
      say(error instanceof Error ? error.message : String(error), { kind: "wrong" });
    }
    await queries.invalidateQueries({ queryKey: KEY });
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
        if (job.palette) queries.invalidateQueries({ queryKey: ["palette", job.palette] });
        queries.invalidateQueries({ queryKey: ["shelf"] });
      }
    }
  }, [jobs, queries]);
}
