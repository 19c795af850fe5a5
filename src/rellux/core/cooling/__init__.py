"""Taking heat out: machines with a compressor, thermo-electric modules, and the water that settles on what is cold."""
