/** Segments a…g of each character, as far as seven of them can say it; M, W, K, V and X are makeshift. */
const SEGMENTS: Record<string, string> = {
  '0': 'abcdef', '1': 'bc', '2': 'abdeg', '3': 'abcdg', '4': 'bcfg', '5': 'acdfg', '6': 'acdefg', '7': 'abc', '8': 'abcdefg', '9': 'abcdfg',
  A: 'abcefg', B: 'cdefg', C: 'adef', D: 'bcdeg', E: 'adefg', F: 'aefg', G: 'acdef', H: 'bcefg', I: 'ef', J: 'bcde', K: 'acefg', L: 'def',
  M: 'aceg', N: 'ceg', O: 'abcdef', P: 'abefg', Q: 'abcfg', R: 'eg', S: 'acdfg', T: 'defg', U: 'bcdef', V: 'cde', W: 'bdfg', X: 'bcefg',
  Y: 'bcdfg', Z: 'abdeg', '-': 'g', _: 'd', '°': 'abfg', '=': 'dg', '→': 'g', ' ': '',
} // prettier-ignore

const SHAPE: Record<string, string> = {
  a: 'M5 2h16l-3 4h-10z',
  b: 'M23 4v17l-3 2l-2 -2v-13z',
  c: 'M23 26v17l-5 -4v-12l3 -2z',
  d: 'M5 45h16l-3 -4h-10z',
  e: 'M3 26v17l5 -4v-12l-2 -2z',
  f: 'M3 4v17l3 2l2 -2v-13z',
  g: 'M7 23.5l3 -2h6l3 2l-3 2h-6z',
}

/** Text on seven segments; a point lights beside the digit before it. Drawn for what it shows, read out as its text. */
export function SevenSegment({
  text,
  digits,
  cursor = -1,
  tone,
}: {
  text: string
  digits: number
  cursor?: number
  tone: 'upper' | 'lower'
}) {
  const cells: { mark: string; point: boolean }[] = []
  for (const mark of text.toUpperCase()) {
    if (mark === '.' && cells.length && !cells.at(-1)!.point) cells.at(-1)!.point = true
    else cells.push({ mark: mark === '.' ? ' ' : mark, point: mark === '.' })
  }
  while (cells.length < digits) cells.unshift({ mark: ' ', point: false })
  return (
    <svg className={`seven ${tone}`} viewBox={`0 0 ${cells.length * 32} 48`} role="img" aria-label={text || 'blank'}>
      {cells.map((cell, i) => (
        <g key={i} transform={`translate(${i * 32} 0)`} className={cells.length - 1 - i === cursor ? 'cursor' : ''}>
          {Object.entries(SHAPE).map(([key, d]) => (
            <path key={key} d={d} className={SEGMENTS[cell.mark]?.includes(key) ? 'lit' : 'dark'} />
          ))}
          <circle cx="28" cy="44" r="2.4" className={cell.point ? 'lit' : 'dark'} />
        </g>
      ))}
    </svg>
  )
}
