"""Frames worked on in blocks, on up to four threads where this process may use as many processors.

NumPy and SciPy leave the interpreter to other threads while they work on a block.
"""

import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor

# More would wait for the interpreter, and keep the window and the sound waiting for it.
_MOST_THREADS = 4


def in_blocks(
    work: Callable[[int, int], object], count: int, size: int, each: Callable[[float], object] = lambda share: None
) -> None:
    """Have `work(first, end)` done for each block of at most `size` of `count` frames; it writes what it finds where

    it belongs. `each` is told the share done, on the thread that calls; what it raises ends the work. Raises what
    `work` raises.
    """
    starts = range(0, count, size)
    threads = min(_MOST_THREADS, len(os.sched_getaffinity(0)), max(1, len(starts)))
    with ThreadPoolExecutor(threads) as pool:
        try:
            blocks = [pool.submit(work, first, min(first + size, count)) for first in starts]
            for first, block in zip(starts, blocks, strict=True):
                each(first / count)
                block.result()
        except BaseException:
            pool.shutdown(cancel_futures=True)
            raise
