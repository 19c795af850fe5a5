"""Log files of other loggers: how one is written, what its columns mean, and what of it may be believed."""
