"""Profiles as the database keeps them. It stands alone, so that the recorder, which runs them, loads nothing else for it."""

from typing import Any

from rellux.core.profiles.profile import Profile, check_profile
from rellux.server.api.shapes import of_plain


def profile_from(plain: Any) -> Profile:
    """A profile from plain data. Raises ``Refused`` for what is none, or cannot be."""
    profile = of_plain(Profile, plain, "profile")
    check_profile(profile)
    return profile
