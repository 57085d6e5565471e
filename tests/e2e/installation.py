"""An installation made as the README says, on a PostgreSQL that knows nothing of it; and nginx in front, as the example has it."""

import contextlib
import os
import re
import subprocess
import sys
import time
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import httpx

from dev import cluster
from dev.cluster import Cluster, get_free_port
from sorta.store.provision import ROLES

_ROOT = Path(__file__).parents[2]
#: The machine's own, or the one that the set-up has fetched.
NGINX = next(
    (path for path in (Path("/usr/sbin/nginx"), _ROOT / ".venv/share/nginx/usr/sbin/nginx") if path.exists()), None
)
EXAMPLE = _ROOT / "deploy" / "nginx.conf"
#: What is the test's own surroundings and nobody's settings.
PLAIN = {key: value for key, value in os.environ.items() if not key.startswith("SORTA_")}


@dataclass
class Installation:
    """Where it is, how its first Owner comes in, and the command `sorta` as its administrator runs it."""

    folder: Path
    pg: Cluster
    address: str
    port: int
    before: str = ""
    link: str = ""

    def run(self, *arguments: str, fails: bool = False, **settings: str) -> str:
        """What a command says."""
        command = [sys.executable, "-m", "sorta.main", *arguments]
        surroundings = {**PLAIN, "SORTA_FOLDER": str(self.folder), **settings}
        done = subprocess.run(command, env=surroundings, capture_output=True, text=True)
        assert (done.returncode != 0) == fails, done.stdout + done.stderr
        return done.stdout + done.stderr

    def init(self, *arguments: str, fails: bool = False) -> str:
        state = str(self.folder.parent / "state")
        return self.run("init", "--folder", str(self.folder), "--state", state, *arguments, fails=fails)


def find_link(said: str) -> str:
    found = re.search(r"https?://\S+/welcome/\S+", said)
    assert found is not None, said
    return found[0]


@contextlib.contextmanager
def install(place: Path, *, tls: bool = False, parts: tuple[str, ...] = ("web", "worker")) -> Iterator[Installation]:
    """Made by `init` and an administrator of the PostgreSQL, its processes running."""
    port, outer = get_free_port(), get_free_port()
    address = f"https://127.0.0.1:{outer}" if tls else f"http://127.0.0.1:{port}"
    with cluster.temporary() as pg:
        with pg.admin() as conn:
            conn.execute(f"drop role {', '.join(ROLES)}, sorta_app, sorta_search")  # type: ignore[arg-type]
        made = Installation(place / "etc", pg, address, port)
        told = made.init("--address", address, "--postgres", f"127.0.0.1:{pg.port}", fails=True)
        assert "database.sql" in told
        assert {path.name: path.stat().st_mode & 0o777 for path in made.folder.iterdir()} == {
            "sorta.env": 0o640,
            "keys": 0o640,
            "web.env": 0o600,
            "worker.env": 0o600,
            "owner.env": 0o600,
            "database.sql": 0o600,
        }
        for _ in range(2):  # Safe to run again.
            script = ["-f", str(made.folder / "database.sql")]
            psql = ["psql", "-q", "-d", pg.conninfo("sorta_admin", "postgres"), *script]
            subprocess.run(psql, check=True, capture_output=True)
        made.before = find_link(made.init())
        made.link = find_link(made.init())
        assert not (made.folder / "database.sql").exists()
        # The stand-in networks are at loopback addresses, which no network's is in life.
        more = {"SORTA_PORT": str(port), "SORTA_LOG_LEVEL": "WARNING", "SORTA_UNDO_SECONDS": "2"}
        settings = {**PLAIN, "SORTA_FOLDER": str(made.folder), "SORTA_ALLOW_PRIVATE": "true", **more}
        running = [subprocess.Popen([sys.executable, "-m", "sorta.main", part], env=settings) for part in parts]
        try:
            with put_nginx_before(made, outer) if tls else contextlib.nullcontext():
                wait_for(f"http://127.0.0.1:{port}/healthz")
                yield made
        finally:
            for part in running:
                part.terminate()
            for part in running:
                part.wait(20)


def wait_for(address: str) -> None:
    for _ in range(240):
        with contextlib.suppress(httpx.TransportError):
            if httpx.get(address, verify=False).status_code < 500:
                return
        time.sleep(0.25)
    raise AssertionError(f"nothing answers at {address}")


@contextlib.contextmanager
def put_nginx_before(made: Installation, outer: int) -> Iterator[None]:
    """The example as it stands, with its four lines filled in and ports that are free."""
    place = made.folder.parent / "nginx"
    place.mkdir()
    name = ["-subj", "/CN=desk", "-addext", "subjectAltName=IP:127.0.0.1"]
    made_of = ["-keyout", str(place / "key.pem"), "-out", str(place / "cert.pem")]
    subprocess.run(
        ["openssl", "req", "-x509", "-newkey", "ec", "-pkeyopt", "ec_paramgen_curve:P-256", "-nodes", *made_of, *name],
        check=True,
        capture_output=True,
    )
    text = EXAMPLE.read_text()
    for said, here in (
        ("listen 80;", f"listen 127.0.0.1:{get_free_port()};"),
        ("listen 443 ssl;", f"listen 127.0.0.1:{outer} ssl;"),
        ("desk.example.org", "127.0.0.1"),
        ("/etc/ssl/sorta/fullchain.pem", str(place / "cert.pem")),
        ("/etc/ssl/sorta/privkey.pem", str(place / "key.pem")),
        ("127.0.0.1:8700", f"127.0.0.1:{made.port}"),
    ):
        assert said in text, said
        text = text.replace(said, here)
    temporary = "".join(
        f"  {kind}_temp_path {place}/{kind};\n" for kind in ("client_body", "proxy", "fastcgi", "uwsgi", "scgi")
    )
    whole = (
        f"daemon off; master_process off; pid {place}/pid; error_log {place}/error.log;\nevents {{}}\nhttp {{\n"
        f"  access_log off;\n{temporary}{text}}}\n"
    )
    (place / "nginx.conf").write_text(whole)
    assert NGINX is not None
    said = ["-e", place / "error.log", "-p", place, "-c", place / "nginx.conf"]
    nginx = subprocess.Popen([NGINX, *said], stderr=subprocess.DEVNULL)
    try:
        wait_for(f"{made.address}/healthz")
        yield
    finally:
        nginx.terminate()
        nginx.wait(10)
