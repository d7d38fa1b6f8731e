"""Windows, views and the audio device: the only room that knows Qt."""
