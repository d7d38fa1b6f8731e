"""`python -m eager_owl`."""

import sys

from eager_owl.cli import main

sys.exit(main())
