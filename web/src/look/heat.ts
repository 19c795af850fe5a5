/**
 * The one colour idea: a temperature looks as hot as it would. Above the Draper point (525 °C) the hue is that of a black
 * body, from Planck's law and the CIE 1931 observer; its lightness ramps so that it stays readable on the theme's paper.
 * Below, a neutral that goes from cool to warm.
 */
const DRAPER_C = 525
const FULL_C = 1300

/** Piecewise-Gaussian fit of the CIE 1931 2° observer (Wyman, Sloan & Shirley, JCGT 2013). Wavelength in nm. */
function observer(nm: number): [number, number, number] {
  const g = (mean: number, low: number, high: number) => {
    const t = (nm - mean) * (nm < mean ? low : high)
    return Math.exp(-0.5 * t * t)
  }
  return [
    1.056 * g(599.8, 0.0264, 0.0323) + 0.362 * g(442.0, 0.0624, 0.0374) - 0.065 * g(501.1, 0.049, 0.0382),
    0.821 * g(568.8, 0.0213, 0.0247) + 0.286 * g(530.9, 0.0613, 0.0322),
    1.217 * g(437.0, 0.0845, 0.0278) + 0.681 * g(459.0, 0.0385, 0.0725),
  ]
}

/** Chromaticity x, y of a black body at this temperature. */
export function chromaticity(celsius: number): [number, number] {
  const kelvin = celsius + 273.15
  let [X, Y, Z] = [0, 0, 0]
  for (let nm = 380; nm <= 780; nm += 10) {
    const power = 1e15 / (nm / 500) ** 5 / (Math.exp(14387768.8 / (nm * kelvin)) - 1)
    const [x, y, z] = observer(nm)
    X += power * x
    Y += power * y
    Z += power * z
  }
  const sum = X + Y + Z
  return [X / sum, Y / sum]
}

/** Linear sRGB of a chromaticity, clipped into the gamut and scaled to a full channel. */
function hue(x: number, y: number): [number, number, number] {
  const [X, Z] = [x / y, (1 - x - y) / y]
  const rgb = [3.2406 * X - 1.5372 - 0.4986 * Z, -0.9689 * X + 1.8758 + 0.0415 * Z, 0.0557 * X - 0.204 + 1.057 * Z]
  const top = Math.max(...rgb)
  return rgb.map((c) => Math.max(0, c / top)) as [number, number, number]
}

const encode = (c: number) => Math.round(255 * (c <= 0.0031308 ? 12.92 * c : 1.055 * c ** (1 / 2.4) - 0.055))
const mix = (a: number[], b: number[], t: number) => a.map((v, i) => v + ((b[i] ?? v) - v) * t)

export const luminance = ([r, g, b]: number[]) => 0.2126 * (r ?? 0) + 0.7152 * (g ?? 0) + 0.0722 * (b ?? 0)

/** Scale a linear colour to a luminance (adding white when a channel would overflow). */
function atLuminance(colour: number[], wanted: number): number[] {
  const scaled = colour.map((c) => (c * wanted) / Math.max(luminance(colour), 1e-6))
  const over = Math.max(...scaled)
  if (over <= 1) return scaled
  const clipped = scaled.map((c) => c / over)
  const white = (wanted - luminance(clipped)) / Math.max(1 - luminance(clipped), 1e-6)
  return mix(clipped, [1, 1, 1], Math.min(Math.max(white, 0), 1))
}

const COOL = { day: [0.075, 0.085, 0.095], night: [0.62, 0.66, 0.7] }
const WARM = { day: [0.1, 0.07, 0.045], night: [0.7, 0.6, 0.48] }
/** Luminance of the glow at the Draper point and when fully hot; both keep 4.5:1 on their paper. */
const GLOW = { day: [0.075, 0.155], night: [0.24, 0.75] }

export type Theme = 'day' | 'night'

/** Linear sRGB of a temperature in °C on a theme's paper. */
export function heatLinear(celsius: number, theme: Theme): number[] {
  const warmth = Math.min(Math.max((celsius - 0) / DRAPER_C, 0), 1)
  const neutral = mix(COOL[theme], WARM[theme], warmth ** 0.8)
  if (celsius < DRAPER_C - 60) return neutral
  const glow = Math.min(Math.max((celsius - DRAPER_C) / (FULL_C - DRAPER_C), 0), 1)
  const [dark, bright] = GLOW[theme]
  const hot = atLuminance(hue(...chromaticity(celsius)), (dark ?? 0) + ((bright ?? 0) - (dark ?? 0)) * glow)
  return mix(neutral, hot, Math.min(Math.max((celsius - DRAPER_C + 60) / 80, 0), 1))
}

/** CSS colour of a temperature in °C. */
export function heat(celsius: number | null | undefined, theme: Theme): string {
  if (celsius == null || !Number.isFinite(celsius)) return 'var(--dim)'
  const [r, g, b] = heatLinear(celsius, theme).map((c) => encode(Math.min(Math.max(c, 0), 1)))
  return `rgb(${r} ${g} ${b})`
}
