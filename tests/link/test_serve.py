"""`serve`: the real program, and clients from elsewhere."""

import json
import os
import shutil
import signal
import socket
import subprocess
import sys
import threading
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager, suppress
from pathlib import Path
from typing import Any

import pytest
from websockets.exceptions import ConnectionClosed, InvalidStatus
from websockets.sync.client import ClientConnection, connect

from tests.helpers import patience
from tests.helpers.builders import draw, put
from woven_locus.document.restoring import restored
from woven_locus.files import plan_json
from woven_locus.files.left_over import left_over
from woven_locus.package_data import package_data

EXAMPLES = Path(__file__).parents[2] / "examples"


@pytest.fixture
def plan(tmp_path: Path) -> Path:
    path = tmp_path / "town.plan.json"
    town = draw("......\n======\n......\n......")
    put(town, "hut", 0, 0)
    plan_json.save(town, path)
    return path


class Served:
    def __init__(self, process: subprocess.Popen[str], folder: Path) -> None:
        self.process, self.folder = process, folder
        assert process.stdout is not None
        line = process.stdout.readline()
        assert line, process.stderr.read() if process.stderr else ""
        self.greeting = json.loads(line)
        self.url, self.token = self.greeting["url"], self.greeting["token"]

    def client(self, **more: Any) -> ClientConnection:
        headers = {"Authorization": f"Bearer {self.token}"}
        return connect(
            self.url, additional_headers=headers, max_size=None, compression=None, **more
        )

    def end(self) -> int:
        self.process.send_signal(signal.SIGTERM)
        return self.process.wait(patience.SECONDS)


def program(*words: object) -> list[str]:
    return [sys.executable, "-m", "woven_locus", *map(str, words)]


@contextmanager
def serving(plan: Path, *words: str) -> Iterator[Served]:
    state = plan.parent / "state"
    process = subprocess.Popen(
        program("serve", plan, *words),
        stdout=subprocess.PIPE,
        stderr=subprocess.PIPE,
        text=True,
        env=os.environ | {"XDG_STATE_HOME": str(state)},
    )
    try:
        yield Served(process, state / "woven-locus" / "journals")
    finally:
        process.kill()
        process.communicate()


def ask(client: ClientConnection, method: str, /, **params: Any) -> Any:
    """The answer; notices before it are passed over."""
    client.send(json.dumps({"jsonrpc": "2.0", "id": "x", "method": method, "params": params}))
    while True:
        answer = json.loads(client.recv(timeout=patience.SECONDS))
        if answer.get("id") == "x":
            return answer.get("result", answer.get("error"))


def told(client: ClientConnection, method: str) -> Any:
    while True:
        notice = json.loads(client.recv(timeout=patience.SECONDS))
        if notice.get("method") == method:
            return notice["params"]


def test_a_change_reaches_everybody_and_is_saved_at_the_end(plan: Path) -> None:
    with serving(plan) as served:
        assert served.greeting.keys() == {"url", "token"}
        assert served.url.startswith("ws://127.0.0.1:")
        with served.client() as one, connect(f"{served.url}?token={served.token}") as two:
            assert ask(two, "subscribe", to="changes")["revision"] == 0
            placed = ask(one, "place", kind="hut", cell=[3, 3])
            assert placed["structure"] == "S2"
            change = told(two, "changed")
            assert change["label"].endswith("from the game")
            assert change["boxes"] == [[3, 3, 3, 3]]
            assert change["cells"][0]["occupants"] == [["S2"]]
            assert change["structures"]["S2"]["cell"] == [3, 3]
            assert ask(one, "undo")["changed"] is True
            assert told(two, "changed")["structures"] == {"S2": None}
            assert ask(one, "redo")["changed"] is True
            ask(two, "unsubscribe", to="changes")
            ask(one, "road.lay", cells=[[0, 3]])
            assert ask(two, "plan.summary")["revision"] == 4
            assert ask(two, "subscribe", to="nothing")["code"] == -32000
        assert served.end() == 0
    saved = plan_json.load(plan)
    assert saved.register[2].cell == (3, 3)
    assert saved.road[3, 0]
    assert not list(served.folder.glob("*.sqlite*"))


def test_a_killed_link_leaves_a_journal(plan: Path) -> None:
    before = plan.read_bytes()
    with serving(plan) as served, served.client() as client:
        ask(client, "place", kind="hut", cell=[3, 3])
        served.process.kill()
        served.process.wait(patience.SECONDS)
    assert plan.read_bytes() == before
    (journal,) = left_over(served.folder)
    kept, _history, base = restored(journal)
    assert kept.register[2].cell == (3, 3)
    assert base.path == plan


def test_who_gets_in(plan: Path) -> None:
    def status(**headers: str) -> int:
        path = headers.pop("path", "")
        try:
            with connect(f"{served.url}{path}", additional_headers=headers):
                return 101
        except InvalidStatus as err:
            return err.response.status_code

    with serving(plan, "--read-only") as served:
        right = f"Bearer {served.token}"
        assert (
            status() == status(Authorization="Bearer wrong") == status(path="/?token=wrong") == 401
        )
        assert status(Authorization=right) == status(path=f"/?token={served.token}") == 101
        for origin in ("https://elsewhere.invalid", "null", "http://127.0.0.1.elsewhere.invalid"):
            assert status(Authorization=right, Origin=origin) == 403
        assert status(Authorization=right, Origin="http://localhost:8000") == 101
        port = served.url.rpartition(":")[2]
        with served.client() as client:
            assert "only reads" in ask(client, "place", kind="hut", cell=[3, 3])["message"]
        # Only the loopback: another address of this machine has nobody.
        other = subprocess.run(
            program("serve", plan, "--port", port), capture_output=True, text=True, check=False
        )
        assert (other.returncode, other.stdout) == (2, "")
        assert f"port {port} cannot be had" in other.stderr
        assert served.end() == 0


def test_garbage_harms_nobody_else(plan: Path) -> None:
    with serving(plan) as served, served.client() as good:
        with served.client() as client:
            for junk in ("{", "[]", "\ud7ff", b"\x00\xff\xfe", "null", "[" * 5000):
                client.send(junk)
                assert json.loads(client.recv(timeout=patience.SECONDS))["error"]["code"] in (
                    -32700,
                    -32600,
                )
            client.send("x" * (2 << 20))
            with pytest.raises(ConnectionClosed) as closed:
                client.recv(timeout=patience.SECONDS)
            assert closed.value.rcvd is not None
            assert closed.value.rcvd.code == 1009
        # A frame that says that a gigabyte follows; half a handshake; half a message.
        with served.client() as client:
            client.socket.sendall(b"\x81\xff" + (1 << 30).to_bytes(8, "big") + b"mask")
            with pytest.raises(ConnectionClosed):
                client.recv(timeout=patience.SECONDS)
        host, port = served.url.removeprefix("ws://").split(":")
        with socket.create_connection((host, int(port))) as half:
            half.sendall(b"GET / HTTP/1.1\r\nHost: x\r\n")
            with served.client() as client:
                client.socket.sendall(b"\x81\x90abcd")
                assert ask(good, "plan.summary")["structures"] == 1
        assert ask(good, "links")["cut_off"] == ["S1"]
        assert served.end() == 0


def test_a_hundred_clients_hear_of_one_change(plan: Path) -> None:
    with serving(plan) as served, ExitStack() as stack:
        clients = [stack.enter_context(served.client()) for _ in range(100)]
        for client in clients:
            assert ask(client, "subscribe", to="changes")["to"] == "changes"
        ask(clients[0], "terrain.paint", cells=[[1, 2]], **{"class": "bog"})
        for client in clients[1:]:
            assert told(client, "changed")["cells"][0]["terrain"] == [["bog"]]
        stack.close()
        assert served.end() == 0


def test_who_does_not_read_is_dropped_and_not_waited_for(plan: Path) -> None:
    big = draw("\n".join(["." * 128] * 128))
    plan_json.save(big, plan)
    with serving(plan) as served, served.client() as good:
        deaf = socket.create_connection(tuple(served.url.removeprefix("ws://").split(":")))  # type: ignore[arg-type]
        deaf.sendall(
            b"GET /?token="
            + served.token.encode()
            + b" HTTP/1.1\r\nHost: x\r\nUpgrade: websocket\r\n"
            b"Connection: Upgrade\r\nSec-WebSocket-Version: 13\r\nSec-WebSocket-Key: "
            b"dGhlIHNhbXBsZSBub25jZQ==\r\n\r\n"
        )
        assert deaf.recv(4096).startswith(b"HTTP/1.1 101")
        message = b'{"jsonrpc": "2.0", "method": "subscribe", "params": {"to": "changes"}}'
        deaf.sendall(bytes((0x81, 0x80 | len(message), 0, 0, 0, 0)) + message)
        corners = [[0, 0], [127, 127]]
        for turn in range(60):
            # Boxes of the whole map: about a megabyte each.
            key = ("bog", "meadow")[turn % 2]
            assert ask(good, "terrain.paint", cells=corners, **{"class": key})["changed"] is True
        deaf.settimeout(30)
        received = 0
        # An end of the stream is as good as a reset.
        with suppress(ConnectionResetError):
            while data := deaf.recv(1 << 20):
                received += len(data)
        assert received < 40 << 20
        assert ask(good, "plan.summary")["revision"] == 60
        deaf.close()
        assert served.end() == 0


def test_traffic_and_waves_run_for_a_client(tmp_path: Path) -> None:
    for name, topic, key in (
        ("selvedge-vale", "traffic", "agents"),
        ("thornmoth-pass", "waves", "attackers"),
    ):
        plan = tmp_path / f"{name}.plan.json"
        plan.write_bytes(package_data("woven_locus.demo", plan.name))
        with serving(plan, "--read-only") as served, served.client() as client:
            assert ask(client, "subscribe", to=topic, seconds=0)["to"] == topic
            assert "above 0" in told(client, topic)["problem"]
            assert ask(client, "subscribe", to=topic, seconds=6.0, every=2.0)["revision"] == 0
            seen = [told(client, topic) for _ in range(3)]
            assert [moment["time"] for moment in seen] == pytest.approx([2, 4, 6])
            assert [moment["done"] for moment in seen] == [False, False, True]
            assert seen[-1][key]
            assert {"kind", "x", "y"} <= seen[-1][key][0].keys()


def test_many_edits_in_a_row(plan: Path) -> None:
    with serving(plan) as served, served.client() as one, served.client() as two:
        ask(two, "subscribe", to="changes")
        got: list[int] = []

        def listen() -> None:
            while not got or got[-1] < 400:
                got.append(told(two, "changed")["revision"])

        listener = threading.Thread(target=listen)
        listener.start()
        for turn in range(400):
            what = "road.lay" if turn % 2 == 0 else "road.erase"
            message = {"jsonrpc": "2.0", "method": what, "params": {"cells": [[2, 3]]}}
            one.send(json.dumps(message))
        listener.join(patience.SECONDS)
        assert got == list(range(1, 401))
        assert ask(one, "plan.summary")["revision"] == 400
        assert served.end() == 0
    assert not plan_json.load(plan).road[3, 2]


def test_another_program_wrote_the_file_meanwhile(plan: Path) -> None:
    with serving(plan) as served:
        with served.client() as client:
            ask(client, "place", kind="hut", cell=[3, 3])
            other = plan_json.load(plan)
            other.name = "Theirs"
            plan_json.save(other, plan)
            assert "changed" in ask(client, "save")["message"] or "written" in str(
                ask(client, "save")
            )
        assert served.end() == 2
    # Theirs is not written over, and what was edited is in the journal.
    assert plan_json.load(plan).name == "Theirs"
    (journal,) = left_over(served.folder)
    assert restored(journal)[0].register[2].cell == (3, 3)


@pytest.mark.parametrize("name", ["link.py", "link.mjs"])
def test_the_examples_talk(tmp_path: Path, name: str) -> None:
    plan = tmp_path / "vale.plan.json"
    plan.write_bytes(package_data("woven_locus.demo", "selvedge-vale.plan.json"))
    command = [sys.executable]
    if name.endswith("mjs"):
        node = shutil.which("node")
        probe = [
            node or "false",
            "--experimental-websocket",
            "-e",
            "process.exit(typeof WebSocket == 'function' ? 0 : 1)",
        ]
        if subprocess.run(probe, capture_output=True, check=False).returncode:
            pytest.skip("there is no node with WebSocket here")
        command = [str(node), "--no-warnings", "--experimental-websocket"]
    with serving(plan) as served:
        greeting = tmp_path / "link.json"
        greeting.write_text(json.dumps(served.greeting))
        done = subprocess.run(
            [*command, EXAMPLES / name, greeting],
            capture_output=True,
            text=True,
            check=False,
            timeout=patience.SECONDS,
        )
        assert (done.returncode, done.stderr) == (0, "")
    assert done.stdout.splitlines() == [
        "Selvedge Vale: 15 structures",
        "may stand there",
        "revision 1: Placed Spring house S16 at 8, 18, from the game, boxes [[8, 18, 8, 18]]",
        "S16",
        "occupied by S16 Spring house",
        "revision 2: Placed Spring house S16 at 8, 18, from the game, boxes [[8, 18, 8, 18]]",
        "15 structures",
    ]


@pytest.mark.parametrize("words", [("none.plan.json",), (".",), ("--port", "70000")])
def test_bad_usage_is_one_line(plan: Path, words: tuple[str, ...]) -> None:
    given = words if words[0] != "--port" else (str(plan), *words)
    done = subprocess.run(
        program("serve", *given), capture_output=True, text=True, check=False, cwd=plan.parent
    )
    assert (done.returncode, done.stdout) == (2, "")
    assert len(done.stderr.splitlines()) == 1
