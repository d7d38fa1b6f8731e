"""Frames worked on in blocks."""

import threading
import unittest

from eager_owl.hearing.blocks import in_blocks


class Blocks(unittest.TestCase):
    def test_all_frames_once(self) -> None:
        for count in (0, 1, 7, 8, 9, 100):
            done: list[range] = []
            in_blocks(lambda first, end, done=done: done.append(range(first, end)), count, 8)
            self.assertEqual(sorted(frame for block in done for frame in block), list(range(count)))
            self.assertTrue(all(len(block) <= 8 for block in done))

    def test_the_share_done_is_told_on_the_thread_that_calls(self) -> None:
        told: list[tuple[float, int]] = []
        in_blocks(lambda first, end: None, 32, 8, lambda share: told.append((share, threading.get_ident())))
        self.assertEqual(told, [(share, threading.get_ident()) for share in (0.0, 0.25, 0.5, 0.75)])

    def test_what_the_teller_raises_ends_the_work(self) -> None:
        begun: list[int] = []
        go_on = threading.Event()

        def work(first: int, end: int) -> None:
            begun.append(first)
            go_on.wait(5)

        def stop(share: float) -> None:
            go_on.set()
            raise KeyboardInterrupt

        with self.assertRaises(KeyboardInterrupt):
            in_blocks(work, 100_000, 1, stop)
        self.assertLess(len(begun), 100_000)

    def test_what_the_work_raises_is_raised(self) -> None:
        with self.assertRaises(ZeroDivisionError):
            in_blocks(lambda first, end: 1 / (first - 3), 10, 1)


if __name__ == "__main__":
    unittest.main()
