// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen } from '@testing-library/react'
import { afterEach, expect, test, vi } from 'vitest'
import { boundOf, choicesOf, choicesText, doubled, effectsOf, effectsText, EMPTY, renamed, whenOf, whenText, withGroup, without, withPasted } from './editing' // prettier-ignore
import { RouteMap } from './RouteMap'
import { SevenSegment } from './SevenSegment'

afterEach(cleanup)

const PAGE = { ...EMPTY.groups[0]!.pages[0]!, key: 'Hy', code: 'Hy', low: -199, high: 999, decimals: 1 }
const LIST = { ...PAGE, sets: ['mode'], choices: [{ code: 'oo', means: '', values: ['on_off'], guarded: false, option: 'board' }, { code: 'tU', means: 'tunes itself', values: [''], guarded: true, option: '' }] } // prettier-ignore

test('choices are written in one field, a guarded one with its mark, an option after its own', () => {
  expect(choicesText(LIST)).toBe('oo=on_off @board, !tU=tunes itself')
  expect(choicesOf(choicesText(LIST), LIST, ['on_off', 'pid'])).toEqual(LIST.choices)
})

test('when a page is there and what it does to others are written in one field each, by codes', () => {
  const mode = { ...LIST, key: 'm', code: 'Zmd' }
  const made = withGroup(EMPTY, 'Level one', [PAGE, mode])
  const when = whenOf(made, 'Zmd=oo|tU, hy=12.5')
  expect(when).toEqual([{ page: 'm', counts: [0, 1] }, { page: 'Hy', counts: [125] }]) // prettier-ignore
  expect(whenText(made, { ...PAGE, shown_when: when })).toBe('Zmd=oo|tU, Hy=12.5')
  const effects = effectsOf(made, mode, 'Hy=default, Hy=converted if oo, Hy=3.0 if tU, gone=default')
  expect(effects.map((e) => [e.page, e.kind, e.counts, e.when])).toEqual([
    ['Hy', 'defaults', 0, []], ['Hy', 'converts', 0, [0]], ['Hy', 'sets', 30, [1]], ['gone', 'defaults', 0, []],
  ]) // prettier-ignore
  expect(effectsText(made, { ...mode, effects })).toBe('Hy=default, Hy=converted if oo, Hy=3.0 if tU, gone=default')
  expect([whenOf(made, ''), effectsOf(made, mode, ' , '), boundOf(made, ''), boundOf(made, 'zmd')]).toEqual([[], [], '', 'm'])
})

test('groups come with a way in, go with it, and keep their keys when those are called otherwise', () => {
  const two = withGroup(EMPTY, 'Level one', [PAGE])
  expect(two.ways[0]).toMatchObject({ to: two.groups[1]!.key, gesture: { press: 'hold', key: 'SET' } })
  const other = renamed(two, ['◆', 'UP', 'DN'])
  expect([other.ways[0]!.gesture.key, other.groups[1]!.next.key, other.editing.up]).toEqual(['◆', '◆', 'UP'])
  expect(doubled(two, 1, 0).groups[1]!.pages.map((p) => p.key)).toEqual(['Hy', 'Hy-2'])
  expect(withPasted(two, [{ title: 'level ONE', pages: [LIST], doubts: [] }]).groups[1]!.pages).toHaveLength(2)
  expect(without(two, 1).ways).toEqual([])
})

test('seven segments light what they can and are read out as their text', () => {
  render(<SevenSegment text="12.5" digits={4} tone="upper" />)
  const lit = screen.getByRole('img', { name: '12.5' }).querySelectorAll('.lit')
  expect(lit).toHaveLength(2 + 5 + 1 + 5)
})

test('a stop says what becomes of its page, and is picked', () => {
  const onPick = vi.fn()
  const made = withGroup(EMPTY, 'Level one', [PAGE])
  render(<RouteMap description={made} found={['', '1.0']} wanted={['', '2.0']} here="" picked="" onPick={onPick} width={600} />)
  fireEvent.click(screen.getByRole('button', { name: 'Hy: 1.0 to 2.0' }))
  expect(onPick).toHaveBeenCalledWith('Hy')
  expect(screen.getByRole('button', { name: 'home: stays' })).toBeTruthy()
})
