"""Plugs and inlets: their ratings, what they carry for hours, the thickest wire they take."""

from .conductor_tables import Practice

PLUGS_A = {Practice.IEC: (10.0, 13.0, 16.0, 32.0, 63.0), Practice.NEC: (15.0, 20.0, 30.0, 50.0)}
"""Ratings of plugs and inlets of mains, from memory of the standards."""
DC_PLUGS_A = (3.0, 5.0, 10.0, 15.0, 30.0, 45.0)
"""Ratings of usual low-voltage connectors, from memory of data sheets."""
NEC_PLUG_SHARE, COOL_SHARE = 0.8, 0.9
"""A plug carries 80 % of its rating for hours (NEC 210.21, 210.23, from memory). IEC lets it carry all of it, but near it contacts
overheat in hours: nine tenths is what is proposed (common practice, no source)."""
PLUG_TAKES_MM2 = {
    Practice.IEC: {10.0: 1.0, 13.0: 1.5, 16.0: 2.5, 32.0: 6.0, 63.0: 16.0},
    Practice.NEC: {15.0: 3.31, 20.0: 3.31, 30.0: 5.26, 50.0: 13.3},
}
"""Largest conductor that goes into a plug's terminals, mm², by its rating (from memory of the standards)."""
