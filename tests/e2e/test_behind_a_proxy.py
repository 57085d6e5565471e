"""On a server: behind the example's nginx with TLS, and a copy of it brought back by the commands an administrator types."""

import re
from collections.abc import Iterator
from pathlib import Path

import httpx
import pytest
from playwright.sync_api import Browser, expect

from demo.run import Demo
from tests.e2e.installation import NGINX, Installation, install

PASSWORD = "turnstile-otter-eleven"


@pytest.fixture
def server(demo: Demo, tmp_path: Path) -> Iterator[Installation]:
    """Nothing of the demo's is in it; what starts the browser starts after that, as everywhere here."""
    with install(tmp_path, tls=True, parts=("web",)) as made:
        yield made


@pytest.mark.skipif(NGINX is None, reason="nginx cannot be had here")
def test_behind_nginx_with_tls_and_a_copy_brought_back(server: Installation, browser: Browser) -> None:
    context = browser.new_context(viewport={"width": 1280, "height": 800}, locale="en-GB", ignore_https_errors=True)
    page = context.new_page()
    page.goto(server.link)
    page.get_by_label("The organisation").fill("Tidewater Trust")
    page.get_by_label("Its first workspace").fill("Lighthouse")
    page.get_by_label("Your e-mail address").fill("frida@tidewater.example")
    page.get_by_label("Your name").fill("Frida Storm")
    page.get_by_label("A password").fill(PASSWORD)
    page.get_by_role("button", name="Make it").click()
    expect(page.get_by_role("heading", name="First steps")).to_be_visible()
    # An https address is enough for cookies that no other host can set and no plain connection carries.
    cookies = {cookie["name"]: cookie for cookie in context.cookies()}
    assert cookies["__Host-sorta_session"]["secure"]
    assert cookies["__Host-sorta_session"]["httpOnly"]
    context.close()

    with httpx.Client(base_url=server.address, verify=False) as client:
        check_headers_and_bounds(client)
        entered = client.post("/api/session", json={"email": "frida@tidewater.example", "password": PASSWORD})
        told = client.get("/api/session").json()
        client.headers["X-CSRF-Token"] = told["csrf"]
        assert entered.status_code == 204
        check_live(client, told["workspaces"][0]["id"])

    copies = server.folder.parent / "copies"
    said = server.run("backup", str(copies), "--keep", "1")
    (copy,) = copies.glob("sorta-*.tar")
    assert str(copy) in said
    assert "not empty" in server.run("restore", str(copy), fails=True)
    server.pg.create_database("again")
    again = (server.folder / "owner.env").read_text().replace("/sorta\n", "/again\n")
    owner = dict(line.split("=", 1) for line in again.splitlines())["SORTA_OWNER_DATABASE"]
    said = server.run("restore", str(copy), SORTA_OWNER_DATABASE=owner)
    assert "Brought back as of" in said
    with server.pg.admin("again") as conn:
        assert conn.execute("select name, held_reason is not null from workspace").fetchall() == [("Lighthouse", True)]
        assert conn.execute("select count(*) from session").fetchone() == (0,)
    assert "0 conversations differ" in server.run("check")


def check_headers_and_bounds(client: httpx.Client) -> None:
    page = client.get("/sign-in")
    assert page.headers["strict-transport-security"] == "max-age=31536000"
    assert "nginx" not in page.text
    # What is too large Sorta says itself.
    refused = client.post("/api/session", content=b"x" * 2_000_000, headers={"content-type": "application/json"})
    assert (refused.status_code, refused.json()["type"]) == (413, "/problems/too-large")
    # Who says to come from elsewhere each time is the same one all the same.
    for n in range(5):
        tried = {"email": "nobody@tidewater.example", "password": "guess"}
        client.post("/api/session", json=tried, headers={"X-Forwarded-For": f"203.0.113.{n}"})
    slowed = client.post("/api/session", json={"email": "nobody@tidewater.example", "password": "guess"})
    assert slowed.status_code == 429
    assert re.search(r"\d+ (seconds|minutes?)", slowed.text)


def check_live(client: httpx.Client, workspace_id: int) -> None:
    """What is new comes through at once, and not when the proxy has gathered enough."""
    path = f"/api/workspaces/{workspace_id}"
    with client.stream("GET", f"{path}/live", timeout=10) as stream:
        lines = (line for line in stream.iter_lines() if line.startswith("data:"))
        assert "hello" in next(lines)
        held = client.put(f"{path}/outgoing/hold", json={"reason": "a drill"})
        assert held.status_code == 204
        assert "outgoing" in next(lines)
        client.delete(f"{path}/outgoing/hold")
