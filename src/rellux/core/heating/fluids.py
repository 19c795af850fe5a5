"""Heat that air and water take up: stated once, for chambers, boxes, fans and flows."""

AIR_J_M3_K = 1200.0
"""Volumetric heat capacity of air at 20 °C and 1 atm, J/m³K: 1.204 kg/m³ × 1006 J/kg·K = 1211 (VDI Heat Atlas D2.2), rounded;
it falls by 0.34 % for each degree, which rules of this kind do not follow."""
WATER_J_KG_K = 4186.0
"""Specific heat of water at 15 °C, J/kg·K (IAPWS-95)."""
WATER_KG_L = 0.998
"""Density of water at 20 °C, kg/l (IAPWS-95)."""
