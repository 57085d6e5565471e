"""What the networks remember: actors, things said, activities, keys seen; in one SQLite file."""

import json
import re
import sqlite3
from pathlib import Path
from typing import Any

_SCHEMA = """
create table if not exists actor (id text primary key, network text, handle text, name text, reach integer,
  page integer not null default 0, token text, hook_url text, hook_secret text, unique (network, handle));
create table if not exists thing (n integer primary key autoincrement, id text unique, network text, json text);
create table if not exists activity (seq integer primary key autoincrement, network text, page text, json text);
create index if not exists activity_page on activity (page, seq);
create table if not exists sent (key text primary key, body text, answer text);
create table if not exists letter (n integer primary key autoincrement, id text unique, json text);
create table if not exists desk_case (n integer primary key autoincrement, id text unique, json text);
create table if not exists media (n integer primary key autoincrement, key text unique, type text, name text, content blob);
create table if not exists setting (key text primary key, json text);
"""


class State:
    """Plain reads and writes; the caller decides what they mean."""

    def __init__(self, path: str | Path) -> None:
        self._db = sqlite3.connect(path, isolation_level=None)
        self._db.row_factory = sqlite3.Row
        self._db.executescript("pragma journal_mode=wal; pragma synchronous=normal;" + _SCHEMA)

    def save(self) -> bytes:
        """Everything, to be begun with again."""
        return self._db.serialize()

    def restore(self, saved: bytes) -> None:
        """Begin with what was saved, in memory."""
        self._db.deserialize(saved)

    def _all(self, query: str, *values: Any) -> list[dict[str, Any]]:
        return [dict(row) for row in self._db.execute(query, values).fetchall()]

    def list_actors(self, network: str) -> list[dict[str, Any]]:
        return self._all("select * from actor where network = ? order by page desc, name", network)

    def get_actor(self, id: str) -> dict[str, Any] | None:
        return next(iter(self._all("select * from actor where id = ?", id)), None)

    def get_actor_by_token(self, network: str, token: str) -> dict[str, Any] | None:
        query = "select * from actor where network = ? and page = 1 and token = ?"
        return next(iter(self._all(query, network, token)), None)

    def set_actor(self, actor: dict[str, Any]) -> None:
        self._db.execute(
            "insert into actor (id, network, handle, name, reach, page, token) values (?, ?, ?, ?, ?, ?, ?) "
            "on conflict (id) do update set name = excluded.name, reach = coalesce(excluded.reach, reach)",
            [actor.get(k) for k in ("id", "network", "handle", "name", "reach", "page", "token")],
        )

    def set_hook(self, id: str, url: str, secret: str) -> None:
        self._db.execute("update actor set hook_url = ?, hook_secret = ? where id = ?", [url, secret, id])

    def set_token(self, id: str, token: str) -> None:
        self._db.execute("update actor set token = ? where id = ?", [token, id])

    def next_number(self) -> int:
        row = self._db.execute("select coalesce(max(n), 0) + 1 from thing").fetchone()
        return int(row[0])

    def set_thing(self, network: str, thing: dict[str, Any]) -> None:
        self._db.execute(
            "insert into thing (id, network, json) values (?, ?, ?) "
            "on conflict (id) do update set json = excluded.json",
            [thing["id"], network, json.dumps(thing)],
        )

    def get_thing(self, id: str) -> dict[str, Any] | None:
        row = self._db.execute("select json from thing where id = ?", [id]).fetchone()
        return json.loads(row[0]) if row else None

    def list_things(self, network: str, limit: int = 300) -> list[dict[str, Any]]:
        rows = self._all("select json from thing where network = ? order by n desc limit ?", network, limit)
        return [json.loads(r["json"]) for r in rows]

    def search_things(
        self, network: str, words: list[str], after: int, limit: int, *, beginnings: bool
    ) -> list[tuple[int, dict[str, Any]]]:
        """What people said in public with all the words, or with words that begin so, oldest first, each with its number."""
        ends = "" if beginnings else r"(?!\w)"
        wanted = [re.compile(rf"(?<!\w){re.escape(word)}{ends}", re.IGNORECASE) for word in words]
        found = []
        for row in self._all("select n, json from thing where network = ? and n > ? order by n", network, after):
            thing = json.loads(row["json"])
            text = str(thing.get("content", ""))
            by_page = thing["attributedTo"].get("type") == "Organization"
            public = any(isinstance(to, str) for to in thing["to"])
            if public and not by_page and "deleted" not in thing and all(one.search(text) for one in wanted):
                found.append((row["n"], thing))
        return found[:limit]

    def add_activity(self, network: str, page: str, activity: dict[str, Any]) -> int:
        cursor = self._db.execute(
            "insert into activity (network, page, json) values (?, ?, ?)", [network, page, json.dumps(activity)]
        )
        return int(cursor.lastrowid or 0)

    def list_activities(self, page: str, after: int, limit: int) -> list[tuple[int, dict[str, Any]]]:
        query = "select seq, json from activity where page = ? and seq > ? order by seq limit ?"
        return [(r["seq"], json.loads(r["json"])) for r in self._all(query, page, after, limit)]

    def get_sent(self, key: str) -> dict[str, Any] | None:
        return next(iter(self._all("select * from sent where key = ?", key)), None)

    def add_sent(self, key: str, body: str, answer: dict[str, Any]) -> None:
        self._db.execute("insert into sent values (?, ?, ?)", [key, body, json.dumps(answer)])

    def add_media(self, key: str, media_type: str, name: str, content: bytes) -> int:
        """Keep a file under its key; the number it has, the same when it was kept before."""
        query = "insert into media (key, type, name, content) values (?, ?, ?, ?) on conflict (key) do nothing"
        self._db.execute(query, [key, media_type, name, content])
        return int(self._db.execute("select n from media where key = ?", [key]).fetchone()[0])

    def get_media(self, n: int) -> dict[str, Any] | None:
        return next(iter(self._all("select * from media where n = ?", n)), None)

    def add_letter(self, id: str, letter: dict[str, Any]) -> None:
        self._db.execute(
            "insert into letter (id, json) values (?, ?) on conflict (id) do nothing", [id, json.dumps(letter)]
        )

    def list_letters(self, limit: int) -> list[dict[str, Any]]:
        return [json.loads(r["json"]) for r in self._all("select json from letter order by n desc limit ?", limit)]

    def count_cases(self) -> int:
        return int(self._db.execute("select count(*) from desk_case").fetchone()[0])

    def set_case(self, case: dict[str, Any]) -> None:
        self._db.execute(
            "insert into desk_case (id, json) values (?, ?) on conflict (id) do update set json = excluded.json",
            [case["id"], json.dumps(case)],
        )

    def get_case(self, id: str) -> dict[str, Any] | None:
        row = self._db.execute("select json from desk_case where id = ?", [id]).fetchone()
        return json.loads(row[0]) if row else None

    def list_cases(self, limit: int) -> list[dict[str, Any]]:
        return [json.loads(r["json"]) for r in self._all("select json from desk_case order by n desc limit ?", limit)]

    def get_setting(self, key: str, default: Any) -> Any:
        row = self._db.execute("select json from setting where key = ?", [key]).fetchone()
        return json.loads(row[0]) if row else default

    def list_settings(self) -> list[tuple[str, str]]:
        """Keys with their JSON."""
        return [tuple(row) for row in self._db.execute("select key, json from setting").fetchall()]

    def set_setting(self, key: str, value: Any) -> None:
        self._db.execute(
            "insert into setting values (?, ?) on conflict (key) do update set json = excluded.json",
            [key, json.dumps(value)],
        )
