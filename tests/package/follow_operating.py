"""Follow docs/OPERATING.md, word for word, on a minimal Debian that has nothing of ours.

As root, on a machine that may be thrown away: `fresh-debian . -- python3 tests/package/follow_operating.py`. The standard
library alone is there. The commands are taken from the page itself; one that is there and not followed here, or followed here and
no longer on the page, is an error.
"""

import http.cookiejar
import json
import os
import re
import shlex
import signal
import subprocess
import sys
import time
import urllib.error
import urllib.parse
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]
PAGE = (ROOT / "docs" / "OPERATING.md").read_text(encoding="utf-8")
HOME = Path("/home/keeper/huvren")
PASSWORD = "a long enough word"
BASE = "http://127.0.0.1:8000"
followed: set[str] = set()


def said() -> set[str]:
    """Every command of the page: lines of blocks, and what stands in the first column of the accounts' table."""
    blocks = re.findall(r"^```\n(.*?)^```", PAGE, re.DOTALL | re.MULTILINE)
    lines = [line.split("  #")[0].strip() for block in blocks for line in block.splitlines()]
    commands = {line for line in lines if line.startswith(("export ", "./run ")) and "─" not in line}
    table = PAGE.split("## Accounts")[1].split("\n## ")[0]
    return commands | {f"./run manage {name}" for name in re.findall(r"`((?:\w+_accounts?|change_password)[^`]*)`", table)}


def take(command: str) -> str:
    """The command, which has to be on the page. Raises `SystemExit`."""
    if command not in said():
        sys.exit(f"The page does not say “{command}” any more.")
    followed.add(command)
    return command


def as_keeper(command: str, env: dict[str, str], given: str = "") -> str:
    """What an ordinary user gets by a command in the checkout. Raises `SystemExit` where it fails."""
    print(f"$ {command}", flush=True)
    run = subprocess.run(in_shell(command), env=env, cwd=HOME, input=given, capture_output=True, text=True)
    if run.returncode != 0:
        sys.exit(f"{run.stdout[-2000:]}\n{run.stderr[-2000:]}\n“{command}” ended with {run.returncode}.")
    return run.stdout + run.stderr


def in_shell(command: str) -> list[str]:
    return ["setpriv", "--reuid=keeper", "--regid=keeper", "--init-groups", "/bin/bash", "-c", command]


@contextmanager
def going_on(command: str, env: dict[str, str]) -> Iterator[None]:
    """Such a command as it goes on; ended by SIGTERM."""
    print(f"$ {command} &", flush=True)
    with (Path("/tmp") / f"{command.split()[1]}.log").open("ab") as log:
        process = subprocess.Popen(in_shell(f"exec {command}"), env=env, cwd=HOME, stdout=log, stderr=log, start_new_session=True)
        try:
            yield
        finally:
            os.killpg(process.pid, signal.SIGTERM)
            process.wait(timeout=60)


def until_ready(seconds: int) -> None:
    """Until it answers that it is ready, with a worker that takes jobs. Raises `SystemExit`."""
    answer = b""
    for _ in range(seconds):
        try:
            with urllib.request.urlopen(f"{BASE}/api/ready", timeout=5) as ready:
                answer = ready.read()
                return
        except urllib.error.HTTPError as error:
            answer = error.read()
        except OSError:
            pass
        time.sleep(1)
    for name in ("serve", "work"):
        print(Path(f"/tmp/{name}.log").read_text(errors="replace")[-3000:])
    sys.exit(f"It is not ready after {seconds} s: {answer!r}")


class Visitor:
    """A browser, as far as signing in and asking go."""

    def __init__(self) -> None:
        self.jar = http.cookiejar.CookieJar()
        self.opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(self.jar))

    def token(self) -> str:
        return next((cookie.value or "" for cookie in self.jar if cookie.name == "csrftoken"), "")

    def sign_in(self, name: str, password: str) -> bool:
        self.opener.open(f"{BASE}/sign-in", timeout=20).read()
        body = urllib.parse.urlencode({"username": name, "password": password, "csrfmiddlewaretoken": self.token()}).encode()
        wish = urllib.request.Request(f"{BASE}/sign-in", body, {"Origin": BASE, "Referer": f"{BASE}/sign-in"})
        return "/sign-in" not in self.opener.open(wish, timeout=20).geturl()

    def names(self) -> list[str]:
        cards = json.load(self.opener.open(f"{BASE}/api/shelf/palettes", timeout=20))["cards"]
        return [card["name"] for card in cards]

    def make(self, name: str) -> None:
        body = json.dumps({"name": name, "text": "#102030 #ffd478"}).encode()
        head = {"Content-Type": "application/json", "X-CSRFToken": self.token(), "Origin": BASE}
        self.opener.open(urllib.request.Request(f"{BASE}/api/palettes", body, head), timeout=20).read()


def check(is_right: bool, sentence: str) -> None:
    print(("  as it says: " if is_right else "  NOT so: ") + sentence, flush=True)
    if not is_right:
        sys.exit(1)


def administrator() -> None:
    """What the page asks of an administrator: Debian's packages, a role, an empty database; and an ordinary user with a checkout."""
    packages = re.search(r"`(apt-get install [^`]*)`", PAGE)
    if packages is None:
        sys.exit("The page names no packages any more.")
    trusted = Path("/etc/ssl/certs/ca-certificates.crt").read_bytes()
    quiet = {"stdout": subprocess.DEVNULL, "env": {**os.environ, "DEBIAN_FRONTEND": "noninteractive"}}
    for command in ("apt-get update -qq", packages[1].replace("install", "install -y -qq")):
        subprocess.run(shlex.split(command), check=True, **quiet)  # type: ignore[call-overload]
    Path("/etc/ssl/certs/ca-certificates.crt").write_bytes(trusted)  # of whoever reaches the indexes from here
    Path("/dev/shm").chmod(0o1777)
    cluster = subprocess.run(["pg_lsclusters", "-h"], capture_output=True, text=True, check=True).stdout.split()
    subprocess.run(["pg_ctlcluster", cluster[0], cluster[1], "start"], check=True)
    databases = [f"CREATE DATABASE {name} OWNER huvren" for name in ("huvren", "empty")]
    for sql in ("CREATE ROLE huvren LOGIN PASSWORD 'word'", *databases):
        subprocess.run(["su", "postgres", "-c", f"psql -q -p {cluster[2]} -c {shlex.quote(sql)}"], check=True, cwd="/")
    subprocess.run(["useradd", "--create-home", "keeper"], check=True)
    subprocess.run(["git", "clone", "-q", str(ROOT), str(HOME)], check=True)
    subprocess.run(["chown", "-R", "keeper:keeper", "/home/keeper"], check=True)


def environment() -> dict[str, str]:
    """What the page exports, with the password and the name of this machine in their places."""
    script = "\n".join(take(command) for command in sorted(said()) if command.startswith("export "))
    script = script.replace("HUVREN_DB_PASSWORD=…", "HUVREN_DB_PASSWORD=word").replace("palettes.example", "127.0.0.1")
    passed = {key: value for key, value in os.environ.items() if not key.startswith("HUVREN_")}
    env = {**passed, "HOME": "/home/keeper", "USER": "keeper"}
    told = subprocess.run(["/bin/bash", "-c", f"set -e\n{script}\nenv -0"], env=env, capture_output=True, text=True, check=True)
    return dict(entry.split("=", 1) for entry in told.stdout.split("\0") if entry)


def first_start(env: dict[str, str]) -> None:
    with going_on(take("./run serve --port 8000"), env):
        print("  setting up …", flush=True)
        begun = time.monotonic()
        while not (HOME / ".huvren" / "venv").exists() and time.monotonic() - begun < 120:
            time.sleep(1)
        with going_on(take("./run work"), env):
            until_ready(900)
            print(f"  ready after {time.monotonic() - begun:.0f} s", flush=True)
            as_keeper(take("./run manage make_account ada"), env, PASSWORD + "\n")
            visitor = Visitor()
            check(visitor.sign_in("ada", PASSWORD), "ada signs in")
            visitor.make("Reeds")
            check("ada" in as_keeper(take("./run manage list_accounts"), env), "list_accounts names her")
            as_keeper(take("./run manage change_password ada"), env, "another long word\n")
            check(not Visitor().sign_in("ada", PASSWORD), "her old password is none any more")
            check(visitor_of("another long word").names() == ["Reeds"], "her palette is there")
            as_keeper(take("./run backup huvren.backup"), env)
            as_keeper(take("./run manage disable_account ada"), env)
            check(not Visitor().sign_in("ada", "another long word"), "who is disabled does not get in")
            as_keeper(take("./run manage enable_account") + " ada", env)
            check(visitor_of("another long word").names() == ["Reeds"], "enable_account turns it round")
            as_keeper(take("./run manage remove_account ada --export ada.zip") + " --yes", env)
            check((HOME / "ada.zip").stat().st_size > 500, "her shelf is in an archive")
            check(not Visitor().sign_in("ada", "another long word"), "who is removed does not get in")


def visitor_of(password: str) -> Visitor:
    visitor = Visitor()
    check(visitor.sign_in("ada", password), "ada signs in")
    return visitor


def restored(env: dict[str, str]) -> None:
    """The backup into an empty database; whoever was removed after it is there again."""
    there = {**env, "HUVREN_DB_NAME": "empty"}
    as_keeper(take("./run restore huvren.backup"), there)
    with going_on("./run serve --port 8000", there), going_on("./run work", there):
        until_ready(120)
        check(visitor_of("another long word").names() == ["Reeds"], "what the backup held is there, and the key is the same")


def main() -> None:
    administrator()
    env = environment()
    first_start(env)
    restored(env)
    check(followed == said(), f"every command was followed; left out: {sorted(said() - followed)}")


if __name__ == "__main__":
    main()
