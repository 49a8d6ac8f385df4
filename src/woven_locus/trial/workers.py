"""Who does the runs: the cores of this machine, or those of a cluster. Results come in the order of the runs."""

from __future__ import annotations

from collections.abc import Callable, Generator, Iterable
from typing import Any

from woven_locus.core.errors import Refused

# The arguments of `runs.outcome`.
Job = tuple[bytes, str, str, dict[str, Any], tuple[str, ...]]
Work = Callable[..., list[str]]
# Runs that are given out ahead of the one that is waited for, for each worker.
_AHEAD = 4


def local(jobs: Iterable[Job], work: Work, workers: int) -> Generator[list[str], None, None]:
    """By processes of this machine. workers : how many, all cores for -1."""
    if workers == 1:
        yield from (work(*job) for job in jobs)
        return
    from joblib import Parallel, delayed

    pool = Parallel(n_jobs=workers, return_as="generator", pre_dispatch=f"{_AHEAD}*n_jobs")
    yield from pool(delayed(work)(*job) for job in jobs)


def cluster(jobs: Iterable[Job], work: Work, address: str) -> Generator[list[str], None, None]:
    """By the workers of a Dask scheduler; a run whose worker is lost is done again by another one. Raises Refused."""
    try:
        import distributed
    except ImportError:
        raise Refused("a cluster needs `pip install woven-locus[cluster]`") from None
    try:
        client: Any = distributed.Client(address, timeout=10)  # type: ignore[no-untyped-call]
    except (OSError, ValueError, TimeoutError) as err:
        raise Refused(f"{address}: no Dask scheduler answers there: {err}") from None
    with client:
        ahead = _AHEAD * max(1, sum(client.nthreads().values()))
        waiting: list[Any] = []
        left = iter(jobs)
        while True:
            for job in left:
                waiting.append(client.submit(work, *job, pure=False, retries=3))
                if len(waiting) >= ahead:
                    break
            if not waiting:
                return
            yield waiting.pop(0).result()
