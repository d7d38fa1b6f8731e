"""Frames worked on in blocks, on as many threads as this process may use processors.

NumPy and SciPy leave the interpreter to other threads while they work on a block.
"""

import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import TypeVar

Part = TypeVar("Part")


def in_blocks(
    work: Callable[[int, int], Part], count: int, size: int, each: Callable[[float], object] = lambda share: None
) -> list[Part]:
    """What `work(first, end)` gives of each block of at most `size` of `count` frames, in their order.

    `each` is told the share done, on the thread that calls; what it raises ends the work. Raises what `work` raises.
    """
    starts = range(0, count, size)
    with ThreadPoolExecutor(max(1, min(len(os.sched_getaffinity(0)), len(starts)))) as pool:
        try:
            parts = [pool.submit(work, first, min(first + size, count)) for first in starts]
            done: list[Part] = []
            for first, part in zip(starts, parts, strict=True):
                each(first / count)
                done.append(part.result())
            return done
        except BaseException:
            pool.shutdown(cancel_futures=True)
            raise
