"""The circuit solved: voltages, currents and powers of a connection list in a state, protective devices included."""
