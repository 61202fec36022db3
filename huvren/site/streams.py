"""Streams of changes: a process of its own that tells every open window what has come to another step.

PostgreSQL announces what changes (migration 0007), one connection listens here, and each window holds a request that is answered by
server-sent events for as long as it is open. Who asks, and which palette may be asked about, our proxy has found out from the
application before a request comes here; this process listens at a socket that nobody else may enter. It knows neither Django nor the
core, so that a thousand windows cost little.

An event is a JSON object: `what` is “step” (of `palette`, which stands at `revision` now), “shelf” (something else is otherwise
there), “anything” (what was announced for a while was not heard), or “begun” (all is heard from now on).
"""

import asyncio
import json
import logging
import os
from collections.abc import AsyncGenerator, AsyncIterator, Awaitable, Callable, MutableMapping
from contextlib import asynccontextmanager, suppress
from typing import Any

from psycopg import AsyncConnection, Error
from psycopg_pool import AsyncConnectionPool, PoolTimeout

Message = MutableMapping[str, Any]
LOG = logging.getLogger("uvicorn.error")
CHANNEL = "huvren_changes"
KEEPALIVE_S = 15.0
"""After so much silence a line without meaning finds out whether anybody is still there."""
LIFE_S = 300.0
"""A stream ends by itself after this time and is asked for anew: who has signed out meanwhile hears no more."""
RETRY_MS = 1000
LONGEST_WAIT_S = 15.0
MOST_STREAMS, MOST_STREAMS_EACH = 4000, 64
"""Of this process, and of one artist."""
MOST_WAITING = 200
"""Palettes that a stream remembers apart while nobody reads it; more than these are one word."""
HEAD = "SELECT head FROM studio_palette WHERE id = %s"
ANYTHING, BEGUN = json.dumps({"what": "anything"}), json.dumps({"what": "begun"})


def address() -> str:
    """Where the database is, by the settings of the application."""
    names = {"host": ("HOST", "127.0.0.1"), "port": ("PORT", "5432"), "dbname": ("NAME", "huvren"), "user": ("USER", "huvren")}
    names["password"] = ("PASSWORD", "")
    parts = {key: os.environ.get(f"HUVREN_DB_{name}", usual) for key, (name, usual) in names.items()}
    quoted = {key: "'" + value.replace("\\", "\\\\").replace("'", "\\'") + "'" for key, value in parts.items()}
    return " ".join(f"{key}={value}" for key, value in quoted.items()) + " connect_timeout=3 tcp_user_timeout=5000 keepalives_idle=20"


class Stream:
    """What one window has not been told yet: of each palette the newest step alone."""

    def __init__(self) -> None:
        self._waiting: dict[str, str] = {}
        self._news = asyncio.Event()

    def put(self, key: str, event: str) -> None:
        """key : what a later event of the same key takes the place of."""
        if len(self._waiting) >= MOST_WAITING and key not in self._waiting:
            self._waiting.clear()
            key, event = "", ANYTHING
        self._waiting[key] = event
        self._news.set()

    async def next(self, within_s: float) -> list[str]:
        """What there is to tell, as soon as there is something; nothing after `within_s` seconds of silence."""
        with suppress(TimeoutError):
            async with asyncio.timeout(within_s):
                await self._news.wait()
        self._news.clear()
        events = list(self._waiting.values())
        self._waiting.clear()
        return events


class Hub:
    """All streams of the process by artist, and what they are told from."""

    def __init__(self) -> None:
        self.streams: dict[int, list[Stream]] = {}
        self.pool: AsyncConnectionPool | None = None

    def hear(self, payload: str) -> None:
        """Hand on what PostgreSQL announces."""
        told = json.loads(payload)
        owner, palette = told.pop("owner"), told.get("palette")
        event = json.dumps({"what": "step" if palette else "shelf"} | told)
        for stream in self.streams.get(owner, ()):
            stream.put(palette or "shelf", event)

    async def listen(self) -> None:
        """For as long as the process goes on; where the database goes away, until it is back."""
        wait_s = 1.0
        while True:
            try:
                async with await AsyncConnection.connect(address(), autocommit=True) as connection:
                    await connection.execute(f"LISTEN {CHANNEL}")
                    wait_s = 1.0
                    for stream in [stream for held in self.streams.values() for stream in held]:
                        stream.put("", ANYTHING)
                    async for note in connection.notifies():
                        self.hear(note.payload)
            except Error as error:
                LOG.warning("changes are not heard: %s", str(error).strip())
            await asyncio.sleep(wait_s)
            wait_s = min(wait_s * 2, LONGEST_WAIT_S)

    async def stand(self, palette: str) -> str:
        """Where a palette stands, as an event."""
        try:
            assert self.pool is not None
            async with self.pool.connection(timeout=3.0) as connection:
                row = await (await connection.execute(HEAD, (palette,))).fetchone()
        except (Error, PoolTimeout):
            return ANYTHING
        return json.dumps({"what": "step", "palette": palette, "revision": row[0]}) if row else BEGUN

    def is_full(self, artist: int) -> bool:
        return len(self.streams.get(artist, ())) >= MOST_STREAMS_EACH or sum(map(len, self.streams.values())) >= MOST_STREAMS

    async def events(self, artist: int, palette: str) -> AsyncGenerator[str]:
        """The text of a stream, piece by piece; the stream is there before the first piece is asked for."""
        stream = Stream()
        self.streams.setdefault(artist, []).append(stream)
        try:
            # Asked after the stream is there: what changes in between is told twice and not left out.
            first = await self.stand(palette) if palette else BEGUN
            yield f"retry: {RETRY_MS}\n\ndata: {first}\n\n"
            now = asyncio.get_running_loop().time
            until = now() + LIFE_S
            while now() < until:
                events = await stream.next(min(KEEPALIVE_S, until - now()))
                yield "".join(f"data: {event}\n\n" for event in events) or ": nothing new\n\n"
        finally:
            held = self.streams[artist]
            held.remove(stream)
            if not held:
                del self.streams[artist]


HUB = Hub()


@asynccontextmanager
async def _running(hub: Hub) -> AsyncIterator[None]:
    hub.pool = AsyncConnectionPool(address(), kwargs={"autocommit": True}, min_size=1, max_size=4, open=False)
    await hub.pool.open()
    listener = asyncio.create_task(hub.listen())
    try:
        yield
    finally:
        listener.cancel()
        await hub.pool.close(timeout=1.0)


async def _lifespan(receive: Callable[[], Awaitable[Message]], send: Callable[[Message], Awaitable[None]]) -> None:
    await receive()
    async with _running(HUB):
        await send({"type": "lifespan.startup.complete"})
        await receive()
    await send({"type": "lifespan.shutdown.complete"})


async def _gone(receive: Callable[[], Awaitable[Message]]) -> None:
    """Until the window that asked is gone."""
    while (await receive())["type"] != "http.disconnect":
        pass


async def application(scope: Message, receive: Callable[[], Awaitable[Message]], send: Callable[[Message], Awaitable[None]]) -> None:
    """The ASGI application."""
    if scope["type"] == "lifespan":
        return await _lifespan(receive, send)
    headers = dict(scope["headers"])
    artist, palette = int(headers.get(b"x-huvren-artist") or 0), headers.get(b"x-huvren-palette", b"").decode()
    is_full = HUB.is_full(artist)
    said = [(b"content-type", b"text/event-stream"), (b"cache-control", b"no-store"), (b"x-content-type-options", b"nosniff")]
    # Where there is no room, a window is told so in its own words: none, and when to come again.
    await send({"type": "http.response.start", "status": 503 if is_full or not artist else 200, "headers": said})
    if is_full or not artist:
        return await send({"type": "http.response.body", "body": b""})
    gone = asyncio.create_task(_gone(receive))
    events = HUB.events(artist, palette)
    try:
        while not gone.done():
            piece = asyncio.ensure_future(anext(events, None))
            await asyncio.wait({gone, piece}, return_when=asyncio.FIRST_COMPLETED)
            if not piece.done():
                piece.cancel()
                with suppress(asyncio.CancelledError):
                    await piece
                break
            if (text := piece.result()) is None:
                break
            await send({"type": "http.response.body", "body": text.encode(), "more_body": True})
    finally:
        gone.cancel()
        await events.aclose()
    await send({"type": "http.response.body", "body": b""})
