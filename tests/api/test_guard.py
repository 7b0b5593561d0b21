"""Nobody else gets in: other sites, other users of the machine, other machines without the key."""

import stat
from collections.abc import Iterator
from pathlib import Path

import httpx
import psycopg
import pytest
from starlette.testclient import TestClient

from aimtrue.api.guard import COOKIE, TRIES, KeyTries
from aimtrue.api.server import make_app
from aimtrue.cli.postgres import Postgres, temporary
from aimtrue.cli.system import SetupError, refuse_unguarded
from aimtrue.settings import OWN_HEADER, Settings, settings
from tests.api.conftest import Client
from tests.house import own_folder
from tests.shapes import binary_stl, box, corners_of

BOX = binary_stl(corners_of(box(2, 3, 5)))
KEY = "larch-hill-bench-7"


@pytest.mark.parametrize(
    ("headers", "code"),
    [
        ({}, "header-missing"),
        ({OWN_HEADER: "1", "Origin": "http://elsewhere.example"}, "foreign"),
        ({OWN_HEADER: "1", "Origin": "null"}, "foreign"),
        ({OWN_HEADER: "1", "Sec-Fetch-Site": "cross-site"}, "foreign"),
        ({OWN_HEADER: "1", "Sec-Fetch-Site": "same-site"}, "foreign"),
    ],
)
def test_no_other_site_can_send_a_file(client: Client, headers: dict[str, str], code: str) -> None:
    before = {row["id"] for row in client.http.get("/jobs").json()}
    with httpx.Client(base_url=client.http.base_url) as elsewhere:
        answer = elsewhere.post("/jobs", params={"name": "part.stl"}, content=BOX, headers=headers)
    assert answer.status_code == 403
    assert answer.json()["code"] == code
    assert {row["id"] for row in client.http.get("/jobs").json()} == before


def test_our_own_page_can(client: Client) -> None:
    here = str(client.http.base_url).removesuffix("/api/")
    headers = {"Origin": here, "Sec-Fetch-Site": "same-origin"}
    assert client.http.post("/jobs", params={"name": "part.stl"}, content=BOX, headers=headers).is_success


def test_what_others_ask_to_see_is_refused_but_a_link_leads_here(client: Client) -> None:
    other = {"Sec-Fetch-Site": "cross-site"}
    assert client.http.get("/jobs", headers={**other, "Sec-Fetch-Mode": "no-cors"}).status_code == 403
    page = client.http.get("/../", headers={**other, "Sec-Fetch-Mode": "navigate"})
    assert page.status_code == 200
    policy = page.headers["content-security-policy"]
    assert "default-src 'self'" in policy
    assert "http" not in policy
    assert page.headers["x-content-type-options"] == "nosniff"
    assert client.http.get("/jobs/none").headers["x-frame-options"] == "DENY"


@pytest.fixture
def guarded(monkeypatch: pytest.MonkeyPatch, client: Client) -> Iterator[TestClient]:
    """The application with a key; its database is that of the house."""
    monkeypatch.setenv("AIMTRUE_KEY", KEY)
    settings.cache_clear()
    monkeypatch.setattr(TRIES, "_wrong", KeyTries()._wrong)
    with TestClient(make_app(), base_url="http://127.0.0.1", headers={OWN_HEADER: "1"}) as browser:
        yield browser
    monkeypatch.undo()
    settings.cache_clear()


def test_a_key_is_given_once_and_kept_in_a_cookie(guarded: TestClient) -> None:
    assert guarded.get("/api/health").status_code == 200
    assert guarded.get("/").status_code == 200  # the page that asks for it
    asked = guarded.get("/api/jobs")
    assert (asked.status_code, asked.json()["code"]) == (401, "key-wanted")
    assert guarded.post("/api/jobs?name=part.stl", content=BOX).status_code == 401
    guarded.cookies.set(COOKIE, KEY)
    assert guarded.get("/api/jobs").status_code == 401
    guarded.cookies.clear()
    assert guarded.post("/api/key", json={"key": "larch-hill-bench-8"}).json()["code"] == "key-wrong"
    given = guarded.post("/api/key", json={"key": f" {KEY} "})
    assert given.status_code == 204
    kept = given.headers["set-cookie"].lower()
    assert "httponly" in kept
    assert "samesite=strict" in kept
    assert KEY not in kept
    assert guarded.get("/api/jobs").status_code == 200


def test_a_script_gives_the_key_with_each_request(guarded: TestClient) -> None:
    assert guarded.get("/api/jobs", headers={"Authorization": f"Bearer {KEY}"}).status_code == 200
    for _ in range(KeyTries.BY_ONE):
        assert guarded.get("/api/jobs", headers={"Authorization": "Bearer no"}).status_code == 401
    assert guarded.get("/api/jobs", headers={"Authorization": f"Bearer {KEY}"}).status_code == 429


def test_tries_are_few(guarded: TestClient) -> None:
    codes = [
        guarded.post("/api/key", json={"key": f"try {n}"}).status_code for n in range(KeyTries.BY_ONE + 2)
    ]
    assert codes == [403] * KeyTries.BY_ONE + [429] * 2
    assert guarded.post("/api/key", json={"key": KEY}).json()["code"] == "key-tries"


def test_tries_are_forgotten_and_counted_for_all() -> None:
    now = [0.0]
    tries = KeyTries(lambda: now[0])
    for _ in range(KeyTries.BY_ONE):
        tries.wrong("one")
    assert tries.wait("one") == KeyTries.SECONDS
    assert tries.wait("other") == 0
    now[0] = KeyTries.SECONDS
    assert tries.wait("one") == 0
    for number in range(KeyTries.BY_ALL):
        tries.wrong(f"host {number}")
    assert tries.wait("somebody new") > 0


@pytest.mark.parametrize("host", ["0.0.0.0", "192.168.1.5", "::", "bench.larch-hill.example"])
def test_it_does_not_listen_to_others_without_a_key(host: str) -> None:
    with pytest.raises(SetupError, match="AIMTRUE_KEY"):
        refuse_unguarded(Settings(host=host, key="short"))
    refuse_unguarded(Settings(host=host, key=KEY))


@pytest.mark.parametrize("host", ["127.0.0.1", "::1", "localhost"])
def test_by_itself_it_wants_none(host: str) -> None:
    refuse_unguarded(Settings(host=host, key=""))


def test_the_database_wants_a_password_that_its_owner_alone_can_read() -> None:
    with own_folder() as folder:
        postgres = temporary(folder)
        postgres.start()
        try:
            assert stat.S_IMODE(postgres.passfile.stat().st_mode) == 0o600
            with psycopg.connect(postgres.address) as connection:
                assert connection.execute("select 1").fetchone() == (1,)
            with pytest.raises(psycopg.OperationalError, match="password"):
                psycopg.connect(f"postgresql://aimtrue@127.0.0.1:{postgres.port}/aimtrue?passfile=/dev/null")
        finally:
            postgres.stop()


def test_a_database_from_before_asks_for_a_password_from_now_on() -> None:
    with own_folder() as folder:
        postgres = temporary(folder)
        postgres.start()
        _without_password(postgres)
        postgres.start()
        try:
            assert "trust" not in [
                line.split()[-1]
                for line in (postgres.folder / "pg_hba.conf").read_text().splitlines()
                if line.strip() and not line.startswith("#")
            ]
            with psycopg.connect(postgres.address) as connection:
                assert connection.execute("select 1").fetchone() == (1,)
        finally:
            postgres.stop()


def test_a_lost_password_is_told() -> None:
    with own_folder() as folder:
        postgres = temporary(folder)
        postgres.start()
        postgres.stop()
        Path(postgres.passfile).unlink()
        try:
            with pytest.raises(SetupError, match="password is missing"):
                postgres.start()
        finally:
            postgres.stop()


def _without_password(postgres: Postgres) -> None:
    """Make a database as it was made when none was asked for."""
    postgres.stop()
    access = postgres.folder / "pg_hba.conf"
    access.write_text(access.read_text().replace("scram-sha-256", "trust"))
    postgres.passfile.unlink()
