"""Conductor colours of thermocouple cable: (positive, negative). From memory of the standards."""

IEC_60584_3 = {
    "K": ("green", "white"),
    "J": ("black", "white"),
    "T": ("brown", "white"),
    "E": ("violet", "white"),
    "N": ("pink", "white"),
    "R": ("orange", "white"),
    "S": ("orange", "white"),
    "B": ("grey", "white"),
}

ANSI_E230 = {
    "K": ("yellow", "red"),
    "J": ("white", "red"),
    "T": ("blue", "red"),
    "E": ("violet", "red"),
    "N": ("orange", "red"),
    "R": ("black", "red"),
    "S": ("black", "red"),
    "B": ("grey", "red"),
}
