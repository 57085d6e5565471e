"""Composition root: reads the settings, makes the parts, runs web, worker or a command.

sorta init | migrate | web | worker | check | backup | restore COPY | settle-in INSTANT | export WORKSPACE FILE |
    import FILE [ORGANISATION] | make-key | seal | tell-spells | learn | check-draw CERTIFICATE | openapi FILE

The same without the command: python -m sorta.main. The settings are those of the surroundings, or of the folder SORTA_FOLDER (/etc/sorta).
"""

import asyncio
import json
import logging
import os
import signal
import sys
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from datetime import UTC, datetime, timedelta
from pathlib import Path
from types import TracebackType
from typing import TYPE_CHECKING, Any, BinaryIO

import httpx
import structlog
from pydantic import ValidationError

from sorta.core.draw import check_certificate
from sorta.core.errors import Invalid, SortaError
from sorta.installing import FOLDER, back_up, init, migrate, read_folder, read_keys, restore, settle_in
from sorta.jobs.worker import work
from sorta.networks.case_desk import HttpCaseDesk
from sorta.networks.granting import OAuthGrantor, read_clients
from sorta.networks.identity import OpenIdProvider, read_provider
from sorta.networks.mail import SmtpPost
from sorta.networks.outgoing import Outgoing
from sorta.networks.programs import HttpPrograms
from sorta.networks.registry import make_networks
from sorta.networks.texting import HttpTexting
from sorta.networks.translator import HttpTranslator
from sorta.services import carrying
from sorta.services.apart import answer_apart
from sorta.services.carrying import Carried
from sorta.services.checking import find_differences, find_other_counts
from sorta.services.house import House
from sorta.services.lessons import teach
from sorta.services.reader import LearnedReader
from sorta.services.record import check_record
from sorta.services.replaying import make_replayer, replay_once
from sorta.services.sealing import seal_again, seal_members
from sorta.services.spells import tell_all
from sorta.services.teaching import answer_once, make_teacher
from sorta.services.waits import find_other_days
from sorta.services.workspaces import list_all_workspace_ids
from sorta.settings import LEARNED, Settings
from sorta.store.db import Database
from sorta.store.files import Files
from sorta.store.keyring import make_key
from sorta.store.live import LiveHub
from sorta.store.queue import Queue
from sorta.store.weights import NoWeights

if TYPE_CHECKING:
    from fastapi import FastAPI

    from sorta.api.schemas.session import DemoAccount

_HERE = Path(__file__).resolve().parent
#: What comes along in an installed package lies in it, in a checkout beside it.
TEXTS = next((path for path in (_HERE / "texts", _HERE.parent / "texts") if path.exists()), _HERE / "texts")
WEB = next((path for path in (_HERE / "web", _HERE.parent / "web" / "dist") if path.exists()), _HERE / "web")


def set_up_logging(level: str) -> None:
    """One JSON object a line, with the request's id: ours, those of libraries, and the last one of a process that fails."""
    shared: list[Any] = [
        structlog.contextvars.merge_contextvars,
        structlog.processors.add_log_level,
        structlog.processors.TimeStamper(fmt="iso", utc=True),
        structlog.processors.format_exc_info,
    ]
    handler = logging.StreamHandler()
    handler.setFormatter(
        structlog.stdlib.ProcessorFormatter(
            foreign_pre_chain=[structlog.stdlib.add_logger_name, *shared],
            processors=[
                structlog.stdlib.ProcessorFormatter.remove_processors_meta,
                structlog.processors.JSONRenderer(),
            ],
        )
    )
    logging.basicConfig(level=level, handlers=[handler], force=True)
    for chatty in ("procrastinate", "httpx", "uvicorn.access"):
        logging.getLogger(chatty).setLevel(logging.WARNING)
    logging.captureWarnings(True)
    structlog.configure(
        processors=[*shared, structlog.processors.JSONRenderer()],
        wrapper_class=structlog.make_filtering_bound_logger(logging.getLevelNamesMapping()[level]),
        logger_factory=structlog.PrintLoggerFactory(sys.stderr),
    )
    log = structlog.get_logger()

    def tell_end(kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        if not issubclass(kind, KeyboardInterrupt):
            log.critical("the process ends", exc_info=(kind, error, trace))

    sys.excepthook = tell_end


def read_weights(settings: Settings) -> LearnedReader:
    """What messages are read by. Ends the process with a sentence where nothing was learned yet."""
    try:
        return LearnedReader.load(settings.reading)
    except NoWeights as error:
        raise SystemExit(f"Sorta cannot read messages yet. {error} `python -m sorta.main learn` makes it.") from None


def make_post(settings: Settings) -> SmtpPost | None:
    """What mails go out through. Ends the process with a sentence where the settings cannot be used."""
    if not settings.mail_server:
        return None
    try:
        return SmtpPost(
            settings.mail_server,
            settings.mail_from,
            security=settings.mail_security,
            user=settings.mail_user,
            password=settings.mail_password.get_secret_value(),
            trusted=settings.mail_ca,
        )
    except (OSError, ValueError) as error:
        raise SystemExit(f"Sorta cannot send mail as it is set up. {error}") from None


def make_grantor(settings: Settings, out: Outgoing) -> OAuthGrantor | None:
    """Who asks networks for leave. Ends the process with a sentence where the file cannot be used."""
    if settings.network_clients is None:
        return None
    try:
        clients = read_clients(settings.network_clients.read_text())
    except (OSError, ValueError) as error:
        raise SystemExit(f"SORTA_NETWORK_CLIENTS cannot be used. {error}") from None
    if not settings.address:
        raise SystemExit("SORTA_NETWORK_CLIENTS needs SORTA_ADDRESS: networks send people back to it.")
    return OAuthGrantor(out, clients, settings.address.rstrip("/"))


def make_identity(settings: Settings, out: Outgoing) -> OpenIdProvider | None:
    """Who knows our members. Ends the process with a sentence where the file cannot be used."""
    if settings.identity_provider is None:
        return None
    try:
        provider = read_provider(settings.identity_provider.read_text())
    except (OSError, ValueError) as error:
        raise SystemExit(f"SORTA_IDENTITY_PROVIDER cannot be used. {error}") from None
    if not settings.address:
        raise SystemExit("SORTA_IDENTITY_PROVIDER needs SORTA_ADDRESS: the provider sends people back to it.")
    return OpenIdProvider(out, provider, settings.address.rstrip("/"))


def make_house(settings: Settings, reader: LearnedReader | None = None) -> House:
    """The parts, not yet opened; `reader` is what reads messages where it is in memory already."""
    keys = read_keys(settings)
    client = httpx.AsyncClient(follow_redirects=False)
    out = Outgoing(client, timeout=settings.network_timeout, allow_private=settings.allow_private)
    return House(
        db=Database(settings.database, keys=keys),
        keys=keys,
        queue=Queue(settings.database),
        live=LiveHub(settings.database),
        networks=make_networks(out),
        reader=reader or read_weights(settings),
        teacher=make_teacher(settings.reading),
        replayer=make_replayer(),
        translator=HttpTranslator(out, settings.translator_url) if settings.translator_url else None,
        texting=HttpTexting(out, settings.text_url, settings.text_token.get_secret_value())
        if settings.text_url
        else None,
        case_desk=HttpCaseDesk(out),
        grantor=make_grantor(settings, out),
        identity=make_identity(settings, out),
        program_post=HttpPrograms(out),
        post=make_post(settings),
        files=Files(settings.files) if settings.files else None,
        mail_secret=settings.mail_secret,
        address=settings.address.rstrip("/"),
        close_networks=client.aclose,
        undo_for=timedelta(seconds=settings.undo_seconds),
        lease=timedelta(seconds=settings.lease_seconds),
    )


def make_web(settings: Settings, demo_accounts: "list[DemoAccount] | None" = None) -> "FastAPI":
    """The web application; without built pages only the API."""
    # Here and not above: the API's shapes take longer to load than all the rest, and only serving and describing it needs them.
    from sorta.api.app import make_app

    return make_app(
        make_house(settings),
        web=WEB if WEB.exists() else None,
        secure_cookies=settings.is_secure,
        demo_password=settings.demo_password,
        demo_accounts=demo_accounts,
        metrics_token=settings.metrics_token,
    )


def run_web(settings: Settings, demo_accounts: "list[DemoAccount] | None" = None) -> None:
    """Serve until stopped; open event streams do not hold up stopping."""
    import uvicorn

    from sorta.api.serving import BoundedProtocol

    uvicorn.run(
        make_web(settings, demo_accounts),
        host="127.0.0.1",
        port=settings.port,
        log_level="warning",
        timeout_graceful_shutdown=2,
        timeout_keep_alive=15,
        limit_concurrency=3000,
        http=BoundedProtocol,
        ws="none",
        proxy_headers=bool(settings.trusted_proxies),
        forwarded_allow_ips=settings.trusted_proxies,
        server_header=False,
        # As all others are written, and not in its own way.
        log_config=None,
    )


async def run_worker(settings: Settings) -> None:
    """Work until stopped by a signal, whatever becomes of the database meanwhile."""
    house = make_house(settings)
    await house.open()
    stop = asyncio.Event()
    for name in (signal.SIGINT, signal.SIGTERM):
        asyncio.get_running_loop().add_signal_handler(name, stop.set)
    try:
        await work(house, stop)
    finally:
        await house.close()


@asynccontextmanager
async def open_house(settings: Settings) -> AsyncIterator[House]:
    """The parts, open while a command needs them."""
    house = make_house(settings)
    await house.open()
    try:
        yield house
    finally:
        await house.close()


async def check(settings: Settings) -> int:
    """Compare every conversation, all that is kept of it, with its trail, counts with what there is, packed days with their rows, and the record of changes with itself; the number that
    differ."""
    async with open_house(settings) as house:
        wrong = 0
        for workspace_id in await list_all_workspace_ids(house):
            differ = await find_differences(house, workspace_id, datetime.now(UTC))
            print(f"workspace {workspace_id}: {len(differ)} conversations differ from their trail")
            for id, what in list(differ.items())[:10]:
                print(f"  {id}: {', '.join(what)}")
            counts = await find_other_counts(house, workspace_id)
            print(f"workspace {workspace_id}: {len(counts)} counts differ from what there is {counts[:10]}")
            days = await find_other_days(house, workspace_id)
            print(f"workspace {workspace_id}: {len(days)} packed days differ from their waits {days[:10]}")
            told = await check_record(house, workspace_id)
            print(f"workspace {workspace_id}: {told.says}")
            wrong += len(differ) + len(counts) + len(days) + (not told.holds)
        return wrong


async def tell_spells(settings: Settings) -> int:
    """Tell every answer spell anew from its trail; of how many conversations."""
    async with open_house(settings) as house:
        return sum([await tell_all(house, workspace_id) for workspace_id in await list_all_workspace_ids(house)])


async def carry_out(settings: Settings, workspace_id: int, file: BinaryIO) -> Carried:
    """Write a workspace into a file."""
    async with open_house(settings) as house:
        return await carrying.carry_out(house, workspace_id, file, datetime.now(UTC))


async def carry_in(settings: Settings, file: BinaryIO, organisation: str | None) -> tuple[Carried, list[str]]:
    """Bring a workspace in from a file; and the addresses of its Owners."""
    async with open_house(settings) as house:
        done = await carrying.carry_in(house, file, datetime.now(UTC), organisation)
        return done, await carrying.list_owners(house, done.workspace_id)


def run_export(settings: Settings, workspace_id: str, path: Path) -> int:
    """The command `export`: a new file that nobody else can read, and none where that fails."""
    try:
        with open(os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "wb") as file:
            try:
                done = asyncio.run(carry_out(settings, int(workspace_id), file))
            except BaseException:
                path.unlink()
                raise
    except (OSError, ValueError, SortaError) as error:
        print(f"Nothing was exported. {error}")
        return 1
    print(f"{path}: “{done.name}” with {sum(done.rows.values()):,} rows and {done.files:,} files.")
    return 0


def run_import(settings: Settings, path: Path, organisation: str | None) -> int:
    """The command `import`."""
    try:
        with path.open("rb") as file:
            done, owners = asyncio.run(carry_in(settings, file, organisation))
    except (OSError, SortaError) as error:
        print(f"Nothing was brought in. {error}")
        return 1
    print(
        f"“{done.name}” is workspace {done.workspace_id} here: {sum(done.rows.values()):,} rows, {done.files:,} files."
    )
    print(f"Its Owners: {', '.join(owners)}.")
    if done.new_members:
        print(
            f"New here, without a password until they ask for a link where one signs in: {', '.join(done.new_members)}."
        )
    print("Everything outgoing is held and its accounts are disconnected: connect them in Setup, then let it go on.")
    if done.lost:
        told = ", ".join(f"{count} to a {kind}" for kind, count in sorted(done.lost.items()))
        print(f"References to what was gone already were left out: {told}.")
    if done.mismatches:
        print(f"{len(done.mismatches)} conversations differ from their trail {done.mismatches[:10]}.")
    return min(len(done.mismatches), 1)


async def seal(settings: Settings) -> int:
    """Seal every secret again with the newest key; how many."""
    async with open_house(settings) as house:
        count = await seal_members(house)
        return count + sum([await seal_again(house, id) for id in await list_all_workspace_ids(house)])


def check_draw(path: Path) -> int:
    """Check a prize draw's certificate again; 0 when it holds."""
    try:
        told = json.loads(path.read_text())
        wrong = check_certificate(told)
    except (OSError, ValueError, Invalid) as error:
        print(f"{path} cannot be checked: {error}")
        return 2
    for one in wrong:
        print(one)
    if not wrong:
        print(f"The draw “{told['name']}” holds: {len(told['entries'])} entries, winners {told['winners']}.")
    return min(len(wrong), 1)


def write_openapi(path: Path) -> None:
    """The API's description, sorted, so that a change shows as one."""
    app = make_web(Settings(database="postgresql://unused", keys=make_key()))
    path.write_text(json.dumps(app.openapi(), indent=1, sort_keys=True) + "\n")


def main(argv: list[str]) -> int:
    """Run one command."""
    command = argv[1] if len(argv) > 1 else ""
    if command == "openapi":
        write_openapi(Path(argv[2]))
        return 0
    if command == "make-key":
        print(make_key())
        return 0
    if command == "learn":
        print("learned from the texts" if teach(TEXTS, LEARNED) else "there is nothing new to learn from")
        return 0
    if command == "relearn" and len(argv) == 3:
        answer_apart(lambda asked, say: answer_once(TEXTS, Path(argv[2]), asked), sys.stdin, sys.stdout)
        return 0
    if command == "replay":
        answer_apart(replay_once, sys.stdin, sys.stdout)
        return 0
    if command == "check-draw" and len(argv) == 3:
        return check_draw(Path(argv[2]))
    if command == "init":
        return init(argv[2:])
    if "SORTA_DATABASE" not in os.environ:
        read_folder(Path(os.environ.get("SORTA_FOLDER", FOLDER)), command)
    by_owner = {"backup": back_up, "restore": restore, "settle-in": settle_in}.get(command)
    if by_owner is not None:
        return by_owner(argv[2:])
    try:
        settings = Settings()
    except ValidationError as error:
        print(
            f"Sorta is not set up: {error.errors()[0]['msg'].lower()} (SORTA_{str(error.errors()[0]['loc'][0]).upper()}). `sorta init` does it."
        )
        return 2
    set_up_logging(settings.log_level)
    if command == "migrate":
        print(f"{migrate(settings.owner_database or settings.database, settings)} migrations applied")
    elif command == "tell-spells":
        print(f"the spells of {asyncio.run(tell_spells(settings))} conversations told anew")
    elif command == "seal":
        print(f"{asyncio.run(seal(settings))} secrets sealed with the newest key")
    elif command == "export" and len(argv) == 4:
        return run_export(settings, argv[2], Path(argv[3]))
    elif command == "import" and len(argv) in (3, 4):
        return run_import(settings, Path(argv[2]), argv[3] if len(argv) == 4 else None)
    elif command == "web":
        run_web(settings)
    elif command == "worker":
        asyncio.run(run_worker(settings))
    elif command == "check":
        return min(asyncio.run(check(settings)), 1)
    else:
        print(__doc__)
        return 2
    return 0


def run() -> None:
    """The command `sorta`."""
    sys.exit(main(sys.argv))


if __name__ == "__main__":
    run()
