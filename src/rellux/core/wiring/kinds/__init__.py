"""Generic part kinds, no brands, by what they do. Terminal names follow common usage; numbers on a real part differ, and are
kept beside them by a part of the user's own."""
