// @vitest-environment jsdom
import { cleanup, waitFor } from '@testing-library/react'
import axe from 'axe-core'
import { afterEach, beforeEach, expect, test, vi } from 'vitest'
import { Demo, drawn } from './app'

let demo: Demo
beforeEach(() => {
  demo = new Demo()
  drawn.length = 0
})
afterEach(() => {
  cleanup()
  vi.unstubAllGlobals()
})

const RIG = '/rigs/cement-cabinet'
const PAGES = [
  '/', '/new', '/library', '/equipment?piece=1', '/maps', '/controllers', '/wall', '/zones', '/zones/1',
  '/questions/bank', '/questions/cables', '/questions/cascade',
  `${RIG}/purpose`, `${RIG}/parts`, `${RIG}/wiring`, `${RIG}/wiring?look=faults`, `${RIG}/proving`, `${RIG}/setup`, `${RIG}/setup?look=keys`,
  `${RIG}/guarding`, `${RIG}/tuning`, `${RIG}/profiles`, `${RIG}/runs`, `${RIG}/runs/import`, `${RIG}/calibration`, `${RIG}/book`,
  `${RIG}/bench`, '/rigs/detector-cold-box/purpose', '/rigs/detector-cold-box/guarding', '/rigs/cement-store/guarding',
] // prettier-ignore

const WITH_CHARTS = [`${RIG}/tuning`, `${RIG}/runs`]

const NAMED = ['label', 'select-name', 'button-name', 'link-name', 'svg-img-alt', 'aria-input-field-name', 'duplicate-id-aria']
const NO_NUMBER = /\b(NaN|Infinity|undefined|null)\b|\[object/
/** In a path it stands right behind its letter. */
const NO_PLACE = /NaN|Infinity|undefined|null|\[object/

test.each(PAGES)('%s is whole: every field has a name, every picture its numbers', { timeout: 30_000 }, async (path) => {
  const { container } = await demo.open(path)
  expect(demo.unknown).toEqual([])
  expect(container.querySelector('.empty[role=alert]')?.textContent).toBeUndefined()
  expect(document.title).toMatch(/^(?!Nothing here).+ · Rellux$/)
  expect(container.textContent).not.toMatch(NO_NUMBER)
  const found = await axe.run(container, { runOnly: NAMED, resultTypes: ['violations'] })
  expect(found.violations.flatMap((v) => v.nodes.map((n) => `${v.id}: ${n.html.slice(0, 160)}`))).toEqual([])
  const broken = [...container.querySelectorAll('svg, svg *')].flatMap((element) =>
    [...element.attributes].filter(({ value }) => NO_PLACE.test(value)).map(({ name, value }) => `${element.tagName} ${name}=${value}`),
  )
  expect(broken).toEqual([])
  if (WITH_CHARTS.includes(path)) await waitFor(() => expect(drawn.length).toBeGreaterThan(0))
  expect(JSON.stringify(drawn, (_, value: unknown) => (typeof value === 'number' && Number.isNaN(value) ? 'NaN' : value))).not.toMatch(
    /"NaN"/,
  )
})
