"""How much property tests try: a third in `make test`, all of it in `make soak`, where DEEP is set."""

import os

DEEP = bool(os.environ.get("DEEP"))


def examples(deep: int) -> int:
    """How many examples to try, of as many as `make soak` tries."""
    return deep if DEEP else max(6, deep // 3)
