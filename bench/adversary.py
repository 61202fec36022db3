"""What once held or filled a server, each as a request to send again."""

import contextlib
import http.client
import io
import json
import socket
import sys
import threading
import time
import zipfile
import zlib
from collections.abc import Callable, Iterator
from typing import Any

from PIL import Image

Send = Callable[[], tuple[int, bytes]]
Note = Callable[[str, int, float, str], None]
SLOW_CONNECTIONS = 200


class Client:
    """One signed-in visitor with one connection."""

    def __init__(self, port: int, cookie: str, note: Note) -> None:
        self.port, self.cookie, self.note = port, cookie, note
        self.ports = [port]
        """Of the servers that it asks in turn."""
        self.connection: http.client.HTTPConnection | None = None

    def send(
        self, kind: str, method: str, path: str, body: bytes | None = None, media: str = "application/json"
    ) -> tuple[int, bytes]:
        headers = {"Cookie": self.cookie, "X-CSRFToken": "a" * 32, "Content-Type": media}
        begun = time.perf_counter()
        status, answer = 0, b""
        for attempt in (1, 2):
            if self.connection is None:
                self.connection = http.client.HTTPConnection("127.0.0.1", self.port, timeout=180)
            try:
                self.connection.request(method, path, body, headers)
                response = self.connection.getresponse()
                status, answer = response.status, response.read()
                break
            except (OSError, http.client.HTTPException) as error:
                answer = repr(error).encode()
                self.connection.close()
                self.connection = None
                if attempt == 2 or method != "GET":
                    break
        self.note(kind, status, (time.perf_counter() - begun) * 1e3, answer[:200].decode("utf-8", "replace"))
        return status, answer

    def turn(self) -> None:
        """To the next server."""
        if len(self.ports) > 1:
            if self.connection is not None:
                self.connection.close()
            self.port = self.ports[(self.ports.index(self.port) + 1) % len(self.ports)]
            self.connection = None

    def json(self, kind: str, method: str, path: str, body: Any = None) -> tuple[int, Any]:
        status, answer = self.send(kind, method, path, None if body is None else json.dumps(body).encode())
        try:
            return status, json.loads(answer)
        except ValueError:
            return status, None

    def upload(self, kind: str, path: str, data: bytes, name: str) -> tuple[int, bytes]:
        edge = "----edge"
        head = f'--{edge}\r\nContent-Disposition: form-data; name="file"; filename="{name}"\r\nContent-Type: image/png\r\n\r\n'
        body = head.encode() + data + f"\r\n--{edge}--\r\n".encode()
        return self.send(kind, "POST", path, body, f"multipart/form-data; boundary={edge}")


def flat_png(width: int, height: int) -> bytes:
    """A PNG of one color, written row by row: a few hundred kilobytes for a hundred million pixels."""

    def chunk(kind: bytes, data: bytes) -> bytes:
        return len(data).to_bytes(4, "big") + kind + data + zlib.crc32(kind + data).to_bytes(4, "big")

    packer = zlib.compressobj(6)
    row = b"\0" + b"\x40\x80\xc0" * width
    at_once = max(1, 4_000_000 // len(row))
    rows = [row * min(at_once, height - top) for top in range(0, height, at_once)]
    packed = b"".join(map(packer.compress, rows)) + packer.flush()
    head = width.to_bytes(4, "big") + height.to_bytes(4, "big") + bytes([8, 2, 0, 0, 0])
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", packed) + chunk(b"IEND", b"")


def one_bit_png(width: int, height: int) -> bytes:
    """A black PNG of one bit a pixel: very many pixels for next to nothing."""
    image = Image.new("1", (width, height))
    buffer = io.BytesIO()
    image.save(buffer, "PNG")
    return buffer.getvalue()


def zipped(**entries: bytes) -> bytes:
    """A zip of these entries; `library__json` stands for library.json."""
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in entries.items():
            archive.writestr(name.replace("__", "."), data)
    return buffer.getvalue()


def library(palettes: int) -> bytes:
    """A table of contents of very many small objects."""
    entry = '{"id":"00000000-0000-4000-8000-000000000000","head":1,"revisions":[]}'
    return ('{"format":"huvren-library","version":3,"palettes":[' + ",".join([entry] * palettes) + "]}").encode()


def stroke(points: int) -> dict[str, Any]:
    path = [[(n * 0.618) % 1, (n * 0.414) % 1] for n in range(points)]
    return {"shape": "brush", "points": path, "radius": 0.03, "weight": 2}


NASTY = (
    "a color of 2,000 blanks", "20,000 letters as a color", "a million letters added", "4 MB of colors added",
    "a style sheet of 10,000 equal names", "300,000 brackets in a style sheet", "a list of 100,000 colors, brought in", "40 MP, flat",
    "100 MP, flat", "a picture of 1 × 100,000,000", "16384 × 2", "an archive of two million objects", "an archive 200,000 deep",
    "an archive with NaN", "400 strokes of 2,000 points", "10³⁰ numbered places", "65,000 swatches against 5,000",
    "80 MB with a forged name",
    "NUL in a name", "half a pair in a name", "digits without end", "20,000 words in a chain", "a name of 30 MB", "400,000 swatches",
    "400,000 unknown keys", "a table of five million columns", "250,000 × 160 in one bit",
)  # fmt: skip


def nasty_requests(client: Any) -> Iterator[tuple[str, Send]]:
    """Each with its name; `client` is a signed-in visitor with a palette of its own, which is made here."""
    _, palette = client.json("nasty", "POST", "/api/palettes", {"text": "#102030 #405060"})
    here = f"/api/palettes/{palette['id']}"

    def get(path: str) -> Send:
        return lambda: client.send("nasty", "GET", path)

    def post(path: str, body: Any) -> Send:
        data = body if isinstance(body, bytes) else json.dumps(body).encode()
        return lambda: client.send("nasty", "POST", path, data)

    def upload(path: str, data: bytes, name: str) -> Send:
        return lambda: client.upload("nasty", path, data, name)

    def preview(**operation: Any) -> Send:
        return post(f"{here}/operations/preview", {"operation": operation})

    swatches = [{"color": {"space": "srgb", "coords": [n % 256 / 255, n // 256 % 256 / 255, 0.5]}} for n in range(65_000)]
    _, answer = client.send(
        "nasty", "POST", "/api/palettes", json.dumps({"document": {"name": "Many", "swatches": swatches}}).encode()
    )
    many = json.loads(answer)["id"]
    deep = b'{"format":"huvren-library","version":3,"palettes":' + b"[" * 200_000 + b"]" * 200_000 + b"}"
    endless = b'{"format":"huvren-library","version":3,"palettes":[],"pictures":NaN}'
    flat40, flat100, thin, wide = flat_png(8000, 5000), flat_png(10_000, 10_000), flat_png(1, 100_000_000), flat_png(16384, 2)
    _, answer = client.upload("nasty", "/api/pictures", flat_png(300, 200), "small.png")
    small = json.loads(answer)["id"]
    blank = '{"color":{"space":"srgb","coords":[0,0,0]}}'
    unknown = ",".join(f'"k{n}":0' for n in range(400_000))
    chain = ":root{" + "".join(f"--v{n}:var(--v{n + 1});" for n in range(20_000)) + "--v20000:#123456}"
    css = ":root{" + "--same: #123456;" * 10_000 + "}"
    hexes = "\n".join(f"{n:06x}" for n in range(100_000))
    sends: dict[str, Send] = {
        "a color of 2,000 blanks": get("/api/colors/parse?text=rgb(" + "%20" * 2000 + "x"),
        "20,000 letters as a color": post("/api/colors/describe", {"text": "a" * 20_000}),
        "a million letters added": preview(kind="add_swatches", text="a" * 1_000_000),
        "4 MB of colors added": preview(kind="add_swatches", text="f00 " * 900_000),
        "a style sheet of 10,000 equal names": upload("/api/imports", css.encode(), "same.css"),
        "300,000 brackets in a style sheet": upload("/api/imports", b"a{b:" + b"(" * 300_000, "deep.css"),
        "a list of 100,000 colors, brought in": upload("/api/imports", hexes.encode(), "many.hex"),
        "40 MP, flat": upload("/api/pictures", flat40, "flat40.png"),
        "100 MP, flat": upload("/api/pictures", flat100, "flat100.png"),
        "a picture of 1 × 100,000,000": upload("/api/pictures", thin, "thin.png"),
        "16384 × 2": upload("/api/pictures", wide, "wide.png"),
        "an archive of two million objects": upload("/api/library/archive", zipped(library__json=library(500_000)), "a.zip"),
        "an archive 200,000 deep": upload("/api/library/archive", zipped(library__json=deep), "a.zip"),
        "an archive with NaN": upload("/api/library/archive", zipped(library__json=endless), "a.zip"),
        "400 strokes of 2,000 points": post(
            f"{here}/previews", {"picture": small, "recipe": {"colors": 8, "marks": [stroke(2000)] * 9 + [stroke(10)] * 391}}
        ),
        "10³⁰ numbered places": post("/api/palettes", b'{"document":{"swatches":[],"slots":1' + b"0" * 30 + b"}}"),
        "65,000 swatches against 5,000": post(f"/api/palettes/{many}/match", {"document": {"swatches": swatches[:5000]}}),
        "80 MB with a forged name": upload("/api/pictures", b"\x89PNG\r\n\x1a\n" + b"\0" * 80_000_000, "x" * 5000),
        "NUL in a name": preview(kind="rename_palette", name="a\0b"),
        "half a pair in a name": post(f"{here}/operations/preview", b'{"operation":{"kind":"rename_palette","name":"\\ud800"}}'),
        "20,000 words in a chain": upload("/api/imports", chain.encode(), "chain.css"),
        "a name of 30 MB": post("/api/palettes", f'{{"document":{{"name":"{"x" * 30_000_000}","swatches":[]}}}}'.encode()),
        "400,000 swatches": post("/api/palettes", f'{{"document":{{"swatches":[{",".join([blank] * 400_000)}]}}}}'.encode()),
        "400,000 unknown keys": post("/api/palettes", f'{{"recipe":{{{unknown}}}}}'.encode()),
        "a table of five million columns": upload("/api/imports", b"name,hex" + b",c" * 5_000_000 + b"\na,#123456\n", "wide.csv"),
        "250,000 × 160 in one bit": upload("/api/pictures", one_bit_png(250_000, 160), "flat.png"),
        "digits without end": post("/api/colors/describe", b'{"space":"srgb","coords":[' + b"9" * 400 + b",0,0]}"),
    }
    yield from sends.items()


def attack(client: Client, requests: list[tuple[str, Send]], ending: threading.Event) -> dict[str, list[tuple[int, float]]]:
    """One after the other, without a pause, beside many slow connections; status and seconds of each answer."""
    found: dict[str, list[tuple[int, float]]] = {}
    with contextlib.ExitStack() as stack:
        for _ in range(SLOW_CONNECTIONS):
            slow = stack.enter_context(socket.create_connection(("127.0.0.1", client.port)))
            head = f"POST /api/palettes HTTP/1.1\r\nHost: 127.0.0.1:{client.port}\r\nCookie: {client.cookie}\r\nContent-Length: 5000"
            slow.sendall(head.encode() + b'\r\n\r\n{"name":"')
        while not ending.is_set():
            for name, send in requests:
                if ending.is_set():
                    break
                client.turn()
                begun = time.perf_counter()
                status, _ = send()
                found.setdefault(name, []).append((status, time.perf_counter() - begun))
    return found


def main() -> None:
    ports, cookie = sys.argv[1:]
    client = Client(int(ports.split(",")[0]), cookie, lambda *said: None)
    client.ports = [int(port) for port in ports.split(",")]
    requests = list(nasty_requests(client))
    print("ready", flush=True)
    sys.stdin.readline()
    ending = threading.Event()
    threading.Thread(target=lambda: (sys.stdin.readline(), ending.set()), daemon=True).start()
    print(json.dumps(attack(client, requests, ending)), flush=True)


if __name__ == "__main__":
    main()
