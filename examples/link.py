"""A game that talks to an open plan: it hears of changes, builds a spring house, and takes it back.

    woven-locus serve valley.plan.json > link.json &
    python3 examples/link.py link.json

Needs the package `websockets`.
"""

from __future__ import annotations

import json
import sys

from websockets.sync.client import connect


def main(path):
    with open(path, encoding="utf-8") as file:
        link = json.load(file)
    headers = {"Authorization": f"Bearer {link['token']}"}
    with connect(link["url"], additional_headers=headers) as server:
        asked = 0

        def ask(method, **params):
            """The result of a method; what is told meanwhile is printed."""
            nonlocal asked
            asked += 1
            message = {"jsonrpc": "2.0", "id": asked, "method": method, "params": params}
            server.send(json.dumps(message))
            while True:
                answer = json.loads(server.recv())
                if answer.get("id") == asked:
                    return answer
                told(answer)

        def told(notice):
            if notice["method"] == "changed":
                change = notice["params"]
                print(f"revision {change['revision']}: {change['label']}, boxes {change['boxes']}")

        summary = ask("plan.summary")["result"]
        print(f"{summary['name']}: {summary['structures']} structures")
        ask("subscribe", to="changes")
        cell = [8, 18]
        verdict = ask("probe", kind="spring-house", cell=cell)["result"]
        print("may stand there" if verdict["ok"] else verdict["words"])
        placed = ask("place", kind="spring-house", cell=cell)
        print(placed["result"]["structure"] if "result" in placed else placed["error"]["message"])
        print(ask("probe", kind="spring-house", cell=cell)["result"]["words"])
        ask("undo")
        print(f"{ask('plan.summary')['result']['structures']} structures")


if __name__ == "__main__":
    main(sys.argv[1])
