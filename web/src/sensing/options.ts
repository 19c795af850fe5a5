export const SENSORS = [...[...'BEJKNRST'].map((t) => [t, `Type ${t}`] as const), ['Pt100', 'Pt100'] as const]
