"""A rig handed over to somebody else: what that person must know, and what is not ready."""
