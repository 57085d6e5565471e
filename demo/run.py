"""`make demo`: PostgreSQL, migrations, the demo's data, the Outside, the worker and the application, as one.

python -m demo.run [--reset]
"""

import argparse
import asyncio
import contextlib
import json
import os
import secrets
import shutil
import signal
import socket
import subprocess
import sys
import time
from pathlib import Path

import httpx

from demo import world
from dev import cluster
from outside import texting
from sorta.networks.abilities import TABLE
from sorta.settings import Settings
from sorta.store.keyring import Keyring, make_key
from sorta.store.migrate import apply_migrations

PASSWORD = "low-tide-at-noon"
#: Seconds.
_FIRST_COUNTED = 3
#: What the provider is called, and whom it knows, each with their groups there: two members, and one who is none yet.
PROVIDER = "Harbour House"
COLLEAGUES = (("Ilse Brandt", ["aquarium"]), ("Teo Nakamura", ["aquarium"]), ("Runa Falk", ["night-desk"]))


def _check_port(port: int, name: str) -> None:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError:
            raise SystemExit(
                f"Port {port} is taken by another program. Choose another one: {name}={port + 10} make demo"
            ) from None


class Demo:
    """Starts the parts in their order and stops them in the other."""

    def __init__(
        self, *, port: int, outside_port: int, folder: Path, more: dict[str, str] | None = None, size: float = 1
    ) -> None:
        """`size` below 1 loads less history: for tests."""
        self.port, self.outside_port, self.folder, self.size = port, outside_port, folder, size
        self.mail_port = cluster.get_free_port()
        #: Between the stand-in that passes mail on and Sorta; a new one each time both are started.
        self.mail_secret = f"whsec_{secrets.token_hex(24)}"
        self.more = more or {}
        self.environment: dict[str, str] = {}
        #: The parts by name: how each is started, and its process.
        self.parts: dict[str, tuple[tuple[str, ...], dict[str, str]]] = {}
        self.running: dict[str, subprocess.Popen[bytes]] = {}
        self.cluster: cluster.Cluster | None = None

    @property
    def address(self) -> str:
        return f"http://localhost:{self.port}"

    @property
    def outside(self) -> str:
        return f"http://127.0.0.1:{self.outside_port}"

    def start_database(self) -> dict[str, str]:
        """The cluster and a migrated database; what the other parts need to know, as environment."""
        self.cluster = cluster.start(self.folder / "pg", cluster.get_free_port())
        if not self.cluster.has_database("sorta"):
            self.cluster.create_database("sorta")
        kept = self.folder / "keys"
        if not kept.exists():
            kept.touch(mode=0o600)
            kept.write_text(f"{make_key()}\n")
        apply_migrations(self.cluster.conninfo("sorta_owner", "sorta"), Keyring.read(kept.read_text()))
        return {
            "SORTA_DATABASE": self.cluster.conninfo("sorta_worker", "sorta"),
            "SORTA_KEYS_FILE": str(kept),
            "SORTA_PORT": str(self.port),
            "SORTA_DEMO_PASSWORD": PASSWORD,
            "SORTA_TEXT_URL": f"{self.outside}/texting",
            "SORTA_TEXT_TOKEN": texting.TOKEN,
            "SORTA_TRANSLATOR_URL": f"{self.outside}/translator",
            "SORTA_MAIL_SERVER": f"127.0.0.1:{self.mail_port}",
            "SORTA_MAIL_SECURITY": "none",
            "SORTA_MAIL_FROM": "desk@brinewick.example",
            "SORTA_ADDRESS": self.address,
            "SORTA_MAIL_SECRET": self.mail_secret,
            "SORTA_FILES": str(self.folder / "files"),
            "SORTA_ALLOW_PRIVATE": "true",
            "SORTA_LOG_LEVEL": "WARNING",
            **self.more,
        }

    def set_durable(self, *, on: bool) -> None:
        """Whether connections from now on wait for the disk; all that was written is on it once they do."""
        assert self.cluster is not None
        with self.cluster.admin("sorta") as conn:
            conn.execute(
                "alter database sorta reset synchronous_commit"
                if on
                else "alter database sorta set synchronous_commit = off"
            )
            if on:
                conn.execute("checkpoint")

    def run_counting(self, command: list[str]) -> int:
        """Run a program and say how it ended. Tables that grow from nothing are counted after a few seconds, twice as many, and so on:
        what was planned when they were empty reads them whole, and by itself the database would look only after a minute."""
        assert self.cluster is not None
        pause = _FIRST_COUNTED
        with subprocess.Popen(command) as running:
            try:
                while True:
                    try:
                        return running.wait(pause)
                    except subprocess.TimeoutExpired:
                        pause *= 2
                        with self.cluster.admin("sorta") as conn:
                            conn.execute("analyze")
            except BaseException:
                running.kill()
                raise

    def write_clients(self) -> Path:
        """What Sorta is to the stand-in networks, which ask for leave at pages of their own."""
        place = self.folder / "clients.json"
        place.touch(mode=0o600)
        clients = {
            network: {
                "issuer": f"{self.outside}/networks/{network}",
                "client_id": f"sorta-{network}",
                "client_secret": self.mail_secret,
                "api_url": f"{self.outside}/api/{network}",
            }
            for network in TABLE
        }
        place.write_text(json.dumps(clients))
        return place

    def write_provider(self) -> Path:
        """The stand-in that knows who the members are."""
        place = self.folder / "provider.json"
        place.touch(mode=0o600)
        provider = {
            "name": PROVIDER,
            "issuer": f"{self.outside}/identity",
            "client_id": "sorta",
            "client_secret": self.mail_secret,
        }
        place.write_text(json.dumps(provider))
        return place

    def register(self) -> None:
        """Make Sorta known to the stand-ins: the networks, the provider with the colleagues it knows, and who passes mail on."""
        program = {"secret": self.mail_secret, "name": "Sorta"}
        for network in TABLE:
            redirects = [f"{self.address}/connect/{network}"]
            self._control("client", id=f"sorta-{network}", redirects=redirects, **program)
        self._control("identity-client", id="sorta", redirects=[f"{self.address}/sign-in/back"], **program)
        for name, groups in COLLEAGUES:
            email = f"{name.split()[0].lower()}@brinewick.example"
            told = {"sub": email.partition("@")[0], "email": email, "email_verified": True, "groups": groups}
            self._control("colleagues", name=name, **told)
        self._control("mailhook", url=f"{self.address}/hooks/mail", secret=self.mail_secret)

    def _control(self, what: str, **body: object) -> None:
        httpx.post(f"{self.outside}/control/{what}", json=body).raise_for_status()

    def start(self, name: str, *arguments: str, environment: dict[str, str]) -> subprocess.Popen[bytes]:
        """One part as a process of its own, its words in a file."""
        self.parts[name] = (arguments, environment)
        with (self.folder / f"{name}.log").open("ab") as log:
            child = subprocess.Popen(
                [sys.executable, "-m", *arguments],
                env={**os.environ, **environment},
                stdout=log,
                stderr=log,
                start_new_session=True,
            )
        self.running[name] = child
        return child

    def start_again(self) -> list[str]:
        """Start every part that has ended by itself once more; their names."""
        ended = [name for name, child in self.running.items() if child.poll() is not None]
        for name in ended:
            arguments, environment = self.parts[name]
            self.start(name, *arguments, environment=environment)
        return ended

    def start_outside(self) -> None:
        state = str(self.folder / "outside.sqlite")
        self.start(
            "outside",
            "outside.app",
            "--port",
            str(self.outside_port),
            "--mail-port",
            str(self.mail_port),
            "--state",
            state,
            environment={},
        )
        wait_for(f"{self.outside}/healthz", self.running["outside"], self.folder / "outside.log")

    def start_worker(self) -> subprocess.Popen[bytes]:
        """The worker, also again after it died."""
        return self.start("worker", "sorta.main", "worker", environment=self.environment)

    def start_web(self) -> None:
        """The application, in the role that cannot choose its workspace; waits until it is ready."""
        assert self.cluster is not None
        environment = {**self.environment, "SORTA_DATABASE": self.cluster.conninfo("sorta_web", "sorta")}
        web = self.start("web", "demo.run", "--web", environment=environment)
        wait_for(f"{self.address}/readyz", web, self.folder / "web.log", seconds=90)

    def stop(self) -> None:
        for child in reversed(self.running.values()):
            child.terminate()
        for child in self.running.values():
            with contextlib.suppress(subprocess.TimeoutExpired):
                child.wait(8)
            child.kill()
            child.wait()
        if self.cluster is not None:
            self.cluster.stop()


def wait_for(url: str, child: subprocess.Popen[bytes], log: Path, seconds: float = 40) -> None:
    """Until the address answers well; a child that ended first is an error with its last words."""
    until = time.monotonic() + seconds
    with httpx.Client(timeout=5) as client:
        while time.monotonic() < until:
            if child.poll() is not None:
                break
            with contextlib.suppress(httpx.HTTPError):
                if client.get(url).status_code == 200:
                    return
            time.sleep(0.1)
    raise SystemExit(f"{url} does not answer. The end of {log}:\n{log.read_text()[-2000:]}")


def _describe(member: world.Member) -> str:
    return f"{member.role}, {member.about}"


def _run_web_process() -> None:
    # Seconds to load, and whoever starts the parts needs none of it.
    from sorta.api.schemas.session import DemoAccount
    from sorta.main import run_web, set_up_logging

    settings = Settings()
    set_up_logging(settings.log_level)
    accounts = [DemoAccount(name=m.name, email=m.email, about=_describe(m)) for m in world.MEMBERS]
    run_web(settings, accounts)


def _seal() -> None:
    from sorta.main import seal

    asyncio.run(seal(Settings()))


def run(demo: Demo) -> None:
    """Start everything; load the demo's data where there is none."""
    demo.folder.mkdir(parents=True, exist_ok=True)
    loaded = demo.folder / "loaded"
    if not loaded.exists():
        for name in ("pg", "files"):
            shutil.rmtree(demo.folder / name, ignore_errors=True)
        for leftover in demo.folder.glob("outside.sqlite*"):
            leftover.unlink()
    environment = demo.start_database()
    environment["SORTA_NETWORK_CLIENTS"] = str(demo.write_clients())
    environment["SORTA_IDENTITY_PROVIDER"] = str(demo.write_provider())
    os.environ.update(environment)
    if loaded.exists():
        _seal()
    demo.start_outside()
    if not loaded.exists():
        print(
            "Loading four weeks of the Brinewick Trust; this happens once and takes about a minute ...",
            flush=True,
        )
        loading = [sys.executable, "-m", "demo.stories", demo.outside, str(demo.size)]
        # What is cut short is loaded anew: until it is whole, nothing waits for the disk.
        demo.set_durable(on=False)
        if demo.run_counting(loading) != 0:
            raise SystemExit("The demo's data could not be loaded; why is said above.")
        demo.set_durable(on=True)
        loaded.touch()
    demo.register()
    demo.environment = environment
    demo.start_worker()
    demo.start_web()


def main() -> None:
    """Parse the command line and stay until Ctrl C."""
    parser = argparse.ArgumentParser(description="Start the demo")
    parser.add_argument("--reset", action="store_true", help="start over with fresh data")
    parser.add_argument("--web", action="store_true", help="(used by the demo itself)")
    given = parser.parse_args()
    if given.web:
        _run_web_process()
        return
    port = int(os.environ.get("SORTA_PORT", "8700"))
    outside_port = int(os.environ.get("SORTA_OUTSIDE_PORT", "8701"))
    _check_port(port, "SORTA_PORT")
    _check_port(outside_port, "SORTA_OUTSIDE_PORT")
    folder = Path(os.environ.get("SORTA_STATE") or cluster.get_state_home())
    if given.reset:
        (folder / "loaded").unlink(missing_ok=True)
    demo = Demo(port=port, outside_port=outside_port, folder=folder)
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
    # A shell that starts this in the background has Ctrl C ignored; here it always stops everything.
    signal.signal(signal.SIGINT, signal.default_int_handler)
    try:
        run(demo)
        print(f"\n  Sorta        {demo.address}\n  The Outside  {demo.outside}\n")
        print(f"  Sign in with any of these and the password  {PASSWORD}")
        for member in world.MEMBERS:
            print(f"    {member.email:<26}{member.name}, {_describe(member)}")
        print("\n  Ctrl C stops everything; what was done is kept.", flush=True)
        again: list[float] = []
        while True:
            time.sleep(0.5)
            for name in demo.start_again():
                print(f"The {name} had stopped and is started again; its words are in {folder / name}.log", flush=True)
                again = [at for at in again if at > time.monotonic() - 60] + [time.monotonic()]
                if len(again) > 5:
                    raise SystemExit(f"The {name} stops again and again; its words are in {folder / name}.log")
    except KeyboardInterrupt:
        print("\nStopping ...", flush=True)
    finally:
        # Whoever presses Ctrl C twice must not interrupt the stopping.
        signal.signal(signal.SIGINT, signal.SIG_IGN)
        signal.signal(signal.SIGTERM, signal.SIG_IGN)
        demo.stop()


if __name__ == "__main__":
    main()
