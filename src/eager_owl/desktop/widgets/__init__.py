"""Parts that the window, the panels and the pages are put together from."""
