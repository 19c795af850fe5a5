"""Programmes of temperature over time: what they ask for, whether a rig can follow, what they are judged by."""
