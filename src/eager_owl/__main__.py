"""`python -m eager_owl`."""

import signal
import sys


def start() -> int:
    """Whoever stops the program while its packages still load is told no more than that, by the shell."""
    signal.signal(signal.SIGINT, signal.SIG_DFL)
    from eager_owl.cli import main

    signal.signal(signal.SIGINT, signal.default_int_handler)
    return main()


sys.exit(start())
