import { expect, test } from 'vitest'
import { chromaticity, heatLinear, luminance } from './heat'

/** Planckian locus, Kim et al. 2002 / CIE 15 tables: 1667 K is about x 0.5646, y 0.4029; 2856 K (illuminant A) 0.4476, 0.4074. */
test('black-body chromaticity matches the Planckian locus within the observer fit', () => {
  const a = chromaticity(2856 - 273.15)
  expect(a[0]).toBeCloseTo(0.4476, 2)
  expect(a[1]).toBeCloseTo(0.4074, 2)
  expect(chromaticity(1667 - 273.15)[0]).toBeCloseTo(0.5646, 2)
})

const PAPER = { day: [0.896, 0.879, 0.823], night: [0.007, 0.0086, 0.0103] }

test.each(['day', 'night'] as const)('a reading keeps 4.5:1 contrast at every temperature on the %s paper', (theme) => {
  const paper = luminance(PAPER[theme])
  for (let t = -40; t <= 1700; t += 20) {
    const ink = luminance(heatLinear(t, theme))
    const ratio = (Math.max(ink, paper) + 0.05) / (Math.min(ink, paper) + 0.05)
    expect(ratio, `${t} °C`).toBeGreaterThanOrEqual(4.5)
  }
})

test('red dominates above the Draper point and not below', () => {
  const [r = 0, g = 0] = heatLinear(800, 'day')
  expect(r).toBeGreaterThan(4 * g)
  const [r2 = 0, g2 = 0] = heatLinear(60, 'day')
  expect(r2).toBeLessThan(1.6 * g2)
})
