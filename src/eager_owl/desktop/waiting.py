"""Waiting for a window to have nothing more to do: pictures and tests need it."""

import time

from PySide6.QtCore import QCoreApplication, QEvent

from eager_owl.desktop.window import Window


def wait_until_idle(window: Window, seconds: float = 60.0) -> None:
    """Let events run until no work is under way and all is drawn, or the time is up."""
    session, until = window.session, time.monotonic() + seconds
    QCoreApplication.processEvents()
    while session.jobs.busy and time.monotonic() < until:
        QCoreApplication.processEvents()
        time.sleep(0.002)
    QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete.value)
    QCoreApplication.processEvents()
    if session.opened is not None:
        session.opened.settle()
        window.catch_up()
        QCoreApplication.processEvents()
