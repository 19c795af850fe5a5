"""First power-up and proving: what is to be measured and seen at this very rig, in which order, and what still holds of it."""
