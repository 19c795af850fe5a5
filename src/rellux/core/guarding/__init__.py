"""What stops a rig, in which order, and whether the gaps between are wide enough."""
