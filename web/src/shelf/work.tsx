import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { navigate } from "wouter/use-browser-location";
import { actOnMember } from "../api/commands";
import { isOpen, useJobs } from "../api/jobs";
import { ask, KEYS } from "../api/queries";
import type { Job, Recipe } from "../api/types";
import { inWords } from "../api/words";
import { useBegin } from "../imports/use-bring-in";
import { Thumbnail } from "../picture/thumbnail";
import { useJobActions } from "../shell/jobs";
import { useScreen } from "../shell/store";
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
  const [shown, setShown] = useState(false);
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
        {isBatch && (
          <TextButton aria-expanded={shown} onClick={() => setShown(!shown)}>
            {shown ? "Hide its pictures" : "Its pictures"}
          </TextButton>
        )}
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
        {job.can_again && (
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
      {shown && (
        <div className="col-span-2">
          <Members job={job} />
        </div>
      )}
    </li>
  );
}

const MEMBER_STATES = { waiting: "to come", done: "finished", failed: "", off: "called off" };

/** The pictures of a batch: each is called off, kept as a palette, or tried again by itself. */
function Members({ job }: { job: Job }) {
  const queries = useQueryClient();
  const say = useScreen((screen) => screen.say);
  const begin = useBegin();
  const batch = useQuery(ask.batch(job.id, isOpen(job)));
  const attempt = async (work: () => Promise<unknown>) => {
    try {
      await work();
    } catch (error) {
      say(inWords(error), { kind: "wrong" });
    }
    await queries.invalidateQueries({ queryKey: KEYS.jobs });
  };
  const keep = (picture: string, name: string) =>
    attempt(async () => {
      const palette = await begin(picture, batch.data?.recipe as Recipe | undefined);
      if (!palette) return;
      await queries.invalidateQueries({ queryKey: KEYS.shelf });
      say(`${name} is a palette on the shelf.`, {
        action: { label: "Open it", run: () => navigate(`/palettes/${palette}`) },
      });
    });
  if (!batch.data) return <p className="text-small text-quiet">Looking at its pictures …</p>;
  return (
    <ul
      aria-label={`Pictures of ${job.label}`}
      className="m-0 grid max-h-72 list-none gap-1 overflow-y-auto p-0 pb-1"
    >
      {batch.data.pictures.map((entry) => (
        <li key={entry.position} className="grid grid-cols-[1fr_auto] items-center gap-2.5 text-small">
          <Thumbnail
            picture={{ id: entry.picture, name: entry.name }}
            note={entry.problem || MEMBER_STATES[entry.state]}
          />
          {entry.state === "waiting" && (
            <TextButton
              aria-label={`Call off: ${entry.name}`}
              onClick={() => void attempt(() => actOnMember("call-off", job.id, entry.position))}
            >
              Call off
            </TextButton>
          )}
          {entry.state === "done" && (
            <TextButton
              aria-label={`Keep as a palette: ${entry.name}`}
              onClick={() => void keep(entry.picture, entry.name)}
            >
              Keep as a palette
            </TextButton>
          )}
          {(entry.state === "failed" || entry.state === "off") && (
            <TextButton
              aria-label={`Try again: ${entry.name}`}
              onClick={() => void attempt(() => actOnMember("retry", job.id, entry.position))}
            >
              Try again
            </TextButton>
          )}
        </li>
      ))}
    </ul>
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
