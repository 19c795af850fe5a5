"""Where things are: in a checkout beside the sources, installed inside the package and in the user's own folder."""

from pathlib import Path

from platformdirs import user_data_path

PACKAGE = Path(__file__).resolve().parent
CHECKOUT = PACKAGE.parents[1]


def is_checkout() -> bool:
    return (CHECKOUT / "pyproject.toml").is_file() and (CHECKOUT / "web").is_dir()


def interface() -> Path:
    """The built interface: what ``./rellux`` builds, or what the wheel brought."""
    return CHECKOUT / "web" / "dist" if is_checkout() else PACKAGE / "interface"


def data_home() -> Path:
    """What holds the data folders where ``RELLUX_DATA`` does not say."""
    return CHECKOUT / "data" if is_checkout() else user_data_path("rellux", appauthor=False)
