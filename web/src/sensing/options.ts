export const SENSORS = [...[...'BEJKNRST'].map((t) => [t, `Type ${t}`] as const), ['Pt100', 'Pt100'] as const, ['Pt1000', 'Pt1000'] as const]
