import { useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useId, useRef, useState } from "react";
import { changePassword, endOtherPlaces, endPlace } from "../api/commands";
import { ask, KEYS } from "../api/queries";
import { csrfToken } from "../api/request";
import type { Schemas } from "../api/types";
import { inWords } from "../api/words";
import { useScreen } from "../shell/store";
import { Button, TextButton } from "../ui/button";
import { ActionPanel } from "../ui/sentence";

type Place = Schemas["PlaceOut"];

const DAY = new Intl.DateTimeFormat("en-GB", {
  day: "numeric",
  month: "short",
  hour: "2-digit",
  minute: "2-digit",
  hour12: false,
});

/** “this browser, since 30 Nov, 05:07, from 192.0.2.1”, with what is known of it. */
export function sayPlace(place: Place) {
  const parts = [
    place.is_this ? "this browser" : "another browser",
    place.began ? `since ${DAY.format(new Date(place.began))}` : "",
    place.address ? `from ${place.address}` : "",
  ];
  return parts.filter(Boolean).join(", ");
}

function Password({ onDone }: { onDone: () => void }) {
  const say = useScreen((screen) => screen.say);
  const [isSending, setSending] = useState(false);
  const [wrong, setWrong] = useState("");
  const present = useRef<HTMLInputElement>(null);
  const id = useId();
  const send = async (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    if (isSending) return;
    const typed = new FormData(event.currentTarget);
    setSending(true);
    setWrong("");
    try {
      await changePassword(String(typed.get("present")), String(typed.get("wanted")));
      say("The password is changed, and you are signed out everywhere else.");
      onDone();
    } catch (error) {
      // What was typed stays; only what is said to be wrong has to be typed again.
      setWrong(inWords(error));
      present.current?.focus();
    }
    setSending(false);
  };
  const field = "mb-2 block h-8 w-full rounded-md border border-ink bg-raised px-2";
  return (
    <form onSubmit={(event) => void send(event)} aria-label="Change the password">
      <label htmlFor={`${id}-present`} className="text-small">
        Present password
      </label>
      <input
        ref={present}
        id={`${id}-present`}
        name="present"
        type="password"
        autoComplete="current-password"
        required
        // biome-ignore lint/a11y/noAutofocus: the form has just been asked for
        autoFocus
        className={field}
      />
      <label htmlFor={`${id}-wanted`} className="text-small">
        New password, of ten letters or more
      </label>
      <input
        id={`${id}-wanted`}
        name="wanted"
        type="password"
        autoComplete="new-password"
        minLength={10}
        maxLength={1000}
        required
        className={field}
      />
      {wrong && (
        <p role="alert" className="mb-2 border-l-4 border-ink pl-2 text-small">
          {wrong}
        </p>
      )}
      <div className="flex gap-2">
        <button
          type="submit"
          disabled={isSending}
          className="min-h-7 rounded-md border border-ink bg-ink px-3 text-small font-semibold text-ground"
        >
          {isSending ? "Changing …" : "Change it"}
        </button>
        <TextButton onClick={onDone}>Not now</TextButton>
      </div>
    </form>
  );
}

function Places({ places }: { places: Place[] }) {
  const queries = useQueryClient();
  const say = useScreen((screen) => screen.say);
  const attempt = async (work: Promise<unknown>) => {
    try {
      await work;
    } catch (error) {
      say(inWords(error), { kind: "wrong" });
    }
    await queries.invalidateQueries({ queryKey: KEYS.account });
  };
  return (
    <>
      <ul
        aria-label="Where you are signed in"
        className="m-0 mb-2 grid max-h-40 list-none grid-cols-[minmax(0,1fr)] gap-1 overflow-y-auto p-0"
      >
        {places.map((place) => (
          <li key={place.id} className="flex items-baseline justify-between gap-2 text-small">
            <span className={`min-w-0 grow wrap-anywhere ${place.is_this ? "font-semibold" : ""}`}>
              {sayPlace(place)}
            </span>
            {!place.is_this && (
              <TextButton
                className="shrink-0"
                aria-label={`Sign out in ${sayPlace(place)}`}
                onClick={() => void attempt(endPlace(place.id))}
              >
                Sign out
              </TextButton>
            )}
          </li>
        ))}
      </ul>
      {places.length > 2 && (
        <TextButton className="-ml-1.5" onClick={() => void attempt(endOtherPlaces())}>
          Sign out everywhere else
        </TextButton>
      )}
    </>
  );
}

function Account() {
  const account = useQuery(ask.account());
  const queries = useQueryClient();
  const [isChanging, setChanging] = useState(false);
  if (account.error) return <p role="alert">{account.error.message}</p>;
  if (!account.data) return <p role="status">Looking …</p>;
  const { name, has_password, places } = account.data;
  if (!has_password)
    return (
      <p className="text-small">
        This is the demo: whoever sits at this computer is signed in as “{name}”, without a password.
      </p>
    );
  return (
    <>
      <p className="mb-1.5 text-small text-quiet">“{name}” is signed in at</p>
      <Places places={places} />
      <div className="my-3 border-y border-line py-3">
        {isChanging ? (
          <Password
            onDone={() => {
              setChanging(false);
              void queries.invalidateQueries({ queryKey: KEYS.account });
            }}
          />
        ) : (
          <TextButton className="-ml-1.5" onClick={() => setChanging(true)}>
            Change the password
          </TextButton>
        )}
      </div>
      <form method="post" action="/sign-out">
        <input type="hidden" name="csrfmiddlewaretoken" value={csrfToken()} />
        <Button type="submit">Sign out</Button>
      </form>
    </>
  );
}

/** Who is signed in, and where; another password, and the way out. */
export function AccountMenu({ name }: { name: string }) {
  return (
    <ActionPanel
      label={name}
      about={`Account of ${name}`}
      className="max-w-40 truncate font-normal text-quiet"
    >
      {() => <Account />}
    </ActionPanel>
  );
}
