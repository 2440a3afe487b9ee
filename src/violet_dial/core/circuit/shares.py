"""Work on many variants a share at a time: each small enough to stay in the cache, as many at once as there are cores.

NumPy lets go of the interpreter while it works, so threads do.
"""

import itertools
import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import TypeVar

Found = TypeVar("Found")


def in_shares(count: int, most: int, work: Callable[[slice], Found]) -> list[Found]:
    """What is found of each share, in order.

    Parameters
    ----------
    most : variants in a share
    work : done for each share
    """
    pieces = max(-(-count // most), 1)
    cuts = [count * place // pieces for place in range(pieces + 1)]
    shares = [slice(first, last) for first, last in itertools.pairwise(cuts)]
    threads = min(os.cpu_count() or 1, pieces)
    if threads < 2:
        return [work(share) for share in shares]
    with ThreadPoolExecutor(threads) as pool:
        return list(pool.map(work, shares))
