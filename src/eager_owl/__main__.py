"""`python -m eager_owl`."""

import signal
import sys

# Whoever stops the program while its packages still load is told no more than that by the shell.
signal.signal(signal.SIGINT, signal.SIG_DFL)

from eager_owl.cli import main  # noqa: E402

signal.signal(signal.SIGINT, signal.default_int_handler)
sys.exit(main())
