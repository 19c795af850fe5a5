"""Arrow, loaded when something of it is first used: it costs a process 27 MB, and most never pack, unpack or read a file.

Its own types stand in quotes where they annotate, for an annotation would load it.
"""

from typing import Any


def __getattr__(name: str) -> Any:
    import pyarrow  # what this module is for: not before it is needed
    import pyarrow.compute
    import pyarrow.csv
    import pyarrow.parquet

    return getattr(pyarrow, name)
