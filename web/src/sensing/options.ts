export const SENSORS = [...[...'BEJKNRST'].map((t) => [t, `Type ${t}`] as const), ['Pt100', 'Pt100'] as const]

export const RANGE: Record<string, [number, number]> = {
  B: [0, 1820], E: [-270, 1000], J: [-210, 1200], K: [-270, 1372], N: [-270, 1300], R: [-50, 1768], S: [-50, 1768], T: [-270, 400], Pt100: [-200, 850],
}

/** A range worth drawing for a sensor: from the cold to most of its span. */
export const usual = (sensor: string): [number, number] => {
  const [low, high] = RANGE[sensor] ?? [0, 1000]
  return [Math.max(low, 0), Math.round((high * 0.8) / 50) * 50]
}
