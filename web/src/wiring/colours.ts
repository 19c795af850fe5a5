/** Real conductor colours, with the letter code that makes them readable in black and white. */
export const COLOURS: Record<string, { css: string; code: string; stripe?: string }> = {
  brown: { css: '#7a4a21', code: 'BN' },
  blue: { css: '#2f6fc1', code: 'BU' },
  'green-yellow': { css: '#3f9a3f', code: 'GNYE', stripe: '#f2d21b' },
  green: { css: '#3f9a3f', code: 'GN' },
  black: { css: '#22262a', code: 'BK' },
  white: { css: '#ffffff', code: 'WH' },
  red: { css: '#c8281e', code: 'RD' },
  yellow: { css: '#f2d21b', code: 'YE' },
  pink: { css: '#ee8fae', code: 'PK' },
  orange: { css: '#ee7f1a', code: 'OG' },
  violet: { css: '#7d4bab', code: 'VT' },
  grey: { css: '#8d9296', code: 'GY' },
}

export const colourOf = (name: string) => COLOURS[name] ?? { css: '#8d9296', code: '?' }
