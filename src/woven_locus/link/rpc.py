"""JSON-RPC 2.0: requests in, answers out. It knows nothing of how they travel."""

from __future__ import annotations

import json
from collections.abc import Awaitable, Callable
from typing import Any

import msgspec

from woven_locus.core.errors import WovenError
from woven_locus.link.method import Method, Params
from woven_locus.link.table import METHODS

PARSE, INVALID, UNKNOWN, PARAMS, INTERNAL, REFUSED = -32700, -32600, -32601, -32602, -32603, -32000
# Requests of a batch at most.
MOST_OF_A_BATCH = 1000

# Runs a method with its parameters; raises WovenError for a refusal.
Run = Callable[[Method, Params], Awaitable[Any]]


async def answer(text: str | bytes, run: Run, on_bug: Callable[[Exception], None]) -> str | None:
    """The answer to a message, or None where none is due. on_bug : told of an error that is no refusal."""
    try:
        message = json.loads(text)
    except (ValueError, RecursionError):
        return _text(_error(None, PARSE, "this is no JSON"))
    if isinstance(message, list):
        if not message or len(message) > MOST_OF_A_BATCH:
            words = f"a batch has 1 to {MOST_OF_A_BATCH} requests, not {len(message)}"
            return _text(_error(None, INVALID, words))
        answers = [
            found for each in message if (found := await _one(each, run, on_bug)) is not None
        ]
        return _text(answers) if answers else None
    found = await _one(message, run, on_bug)
    return _text(found) if found is not None else None


async def _one(
    message: Any, run: Run, on_bug: Callable[[Exception], None]
) -> dict[str, Any] | None:
    if (
        not isinstance(message, dict)
        or message.get("jsonrpc") != "2.0"
        or not isinstance(message.get("method"), str)
    ):
        return _error(
            None, INVALID, 'a request is {"jsonrpc": "2.0", "method": …, "params": {…}, "id": …}'
        )
    asked = message.get("id")
    if isinstance(asked, bool | dict | list):
        return _error(None, INVALID, "an id is text, a number or null")
    found = await _result(message, run, on_bug)
    return {"jsonrpc": "2.0", "id": asked, **found} if "id" in message else None


async def _result(
    message: dict[str, Any], run: Run, on_bug: Callable[[Exception], None]
) -> dict[str, Any]:
    method = METHODS.get(message["method"])
    if method is None:
        return _error(
            None, UNKNOWN, f"no method {message['method'][:80]!r}; rpc.discover lists them"
        )
    given = message.get("params", {})
    if not isinstance(given, dict):
        return _error(None, PARAMS, "parameters go by name, as an object")
    try:
        params = msgspec.convert(given, method.params)
    except msgspec.ValidationError as err:
        return _error(None, PARAMS, str(err))
    try:
        return {"result": await run(method, params)}
    except WovenError as err:
        return _error(None, REFUSED, str(err))
    except Exception as err:  # noqa: BLE001 (a bug must not end the link; it is told)
        on_bug(err)
        return _error(None, INTERNAL, "an error of the program; the plan is as it was")


def notice(method: str, params: dict[str, Any]) -> str:
    """A notification."""
    return _text({"jsonrpc": "2.0", "method": method, "params": params})


def _error(asked: Any, code: int, words: str) -> dict[str, Any]:
    found: dict[str, Any] = {"error": {"code": code, "message": words}}
    return found if code not in (PARSE, INVALID) else {"jsonrpc": "2.0", "id": asked, **found}


def _text(value: Any) -> str:
    return json.dumps(value, ensure_ascii=False, allow_nan=False)
