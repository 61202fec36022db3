import { navigate } from "wouter/use-browser-location";
import { isOpen, useJobs } from "../api/jobs";
import type { Job } from "../api/types";
import { useJobActions } from "../shell/jobs";
import { Button, TextButton } from "../ui/button";

const STATES = {
  waiting: "waiting for its turn",
  working: "",
  done: "done",
  failed: "failed",
  cancelled: "called off",
};

function Row({ job }: { job: Job }) {
  const act = useJobActions();
  const open = isOpen(job);
  const isBatch = job.kind === "batch";
  const palette = job.palette;
  return (
    <li className="grid grid-cols-[1fr_auto] items-center gap-x-4 gap-y-1 border-t border-line py-2">
      <div className="min-w-0">
        <p className="truncate font-semibold">{job.label}</p>
        <p
          role={job.state === "failed" ? "alert" : "status"}
          className={`text-small ${job.state === "failed" ? "text-ink" : "truncate text-quiet"}`}
        >
          {[STATES[job.state], isBatch && open ? `${job.made} of ${job.wanted}` : "", job.step]
            .filter(Boolean)
            .join(" · ")}
        </p>
      </div>
      <div className="flex items-center gap-2">
        {open && (
          <>
            <span
              role="progressbar"
              aria-label={`Progress of ${job.label}`}
              aria-valuenow={Math.round(job.share * 100)}
              aria-valuemin={0}
              aria-valuemax={100}
              className="block h-1.5 w-40 overflow-hidden rounded-full bg-line"
            >
              <span className="block h-full bg-ink" style={{ width: `${job.share * 100}%` }} />
            </span>
            <span className="w-10 text-right text-small">{Math.round(job.share * 100)} %</span>
            <Button onClick={() => void act("cancel", job.id)}>Cancel</Button>
          </>
        )}
        {(job.state === "failed" || job.state === "cancelled") && (
          <Button onClick={() => void act("retry", job.id)}>
            {isBatch && job.made > 0 ? "Go on" : "Try again"}
          </Button>
        )}
        {!open && isBatch && job.made > 0 && (
          <a
            href={`/api/jobs/${job.id}/zip`}
            download
            className="inline-flex min-h-7 items-center rounded-md border border-ink bg-ink px-3 text-small font-semibold text-ground"
          >
            Fetch the zip
          </a>
        )}
        {job.state === "done" && palette && (
          <Button onClick={() => navigate(`/palettes/${palette}`)}>Open</Button>
        )}
        {!open && (
          <TextButton aria-label={`Put away ${job.label}`} onClick={() => void act("clear", job.id)}>
            Put away
          </TextButton>
        )}
      </div>
    </li>
  );
}

/** Long work that goes on, and what came of it; a single reduction that went well needs no line. */
export function Work() {
  const jobs = useJobs().filter((job) => job.kind !== "reduction" || job.state !== "done");
  if (jobs.length === 0) return null;
  return (
    <section aria-labelledby="work" className="mb-8">
      <h2 id="work" className="mb-2 text-label font-semibold">
        At work
      </h2>
      <ul className="m-0 list-none p-0">
        {jobs.map((job) => (
          <Row key={job.id} job={job} />
        ))}
      </ul>
    </section>
  );
}
