import { describe, expect, it } from 'vitest'
import { lasting, lastingEntry } from '../units/lasting'
import { another, BEGINNING, dragged, lasts, ofKind, type Profile, targetBefore, without } from './data'

describe('a time as people write it', () => {
  it.each([
    [57600, '16 h'],
    [5400, '90 min'],
    [45, '45 s'],
    [9090, '151.5 min'],
    [9091, '2.525 h'],
    [259200, '3 d'],
    [null, ''],
  ])('%s s stands as %s', (seconds, text) => expect(lasting(seconds)).toBe(text))

  it.each([
    ['90 min', null, 5400],
    ['1:30', null, 5400],
    ['1 h 30 min', null, 5400],
    ['1.5 h', null, 5400],
    ['0:00:45', null, 45],
    ['20', 5400, 1200],
    ['20', 57600, 72000],
    ['20', 45, 20],
    ['', 45, null],
  ])('%s is read beside %s', (text, before, seconds) => expect(lastingEntry(text, before, false).value).toBe(seconds))

  it.each(['soon', '5 parsecs', '1:75', 'h', '5 min x'])('%s is said to be none', (text) =>
    expect(lastingEntry(text, 60, false).wrong).toContain('no length of time'),
  )

  it('is the same after it was shown and read again', () => {
    for (const seconds of [1, 59, 90, 120, 3599, 3600, 4000, 86400, 100000, 1234567])
      expect(lastingEntry(lasting(seconds), seconds, false).value).toBeCloseTo(seconds, -1)
  })
})

describe('segments', () => {
  const looped: Profile = { ...BEGINNING, loops: [{ first: 1, last: 2, times: 3 }] }

  it('are added behind one, loops moving along', () => {
    const more = another(looped, 1)
    expect(more.segments.map((s) => s.kind)).toEqual(['ramp_rate', 'soak', 'ramp_rate', 'end'])
    expect(more.segments[2]!.target_c).toBe(80)
    expect(another(looped, 0).loops[0]).toEqual({ first: 1, last: 3, times: 3 })
  })

  it('are taken out, and a loop that loses its segments goes', () => {
    expect(without(looped, 1).loops[0]).toEqual({ first: 1, last: 1, times: 3 })
    expect(without(without(looped, 1), 0).loops).toEqual([])
  })

  it('take over what another kind needs', () => {
    const timed = ofKind(BEGINNING, 0, 'ramp_time')
    expect([timed.target_c, timed.rate_c_per_min, timed.time_s]).toEqual([60, null, 3600])
    expect(ofKind(BEGINNING, 1, 'step').target_c).toBe(60)
    expect(targetBefore(BEGINNING, 0)).toBeNull()
    expect([lasts(BEGINNING.segments[0]!, 20), lasts(BEGINNING.segments[1]!, 60)]).toEqual([1200, 3600])
  })

  it('keep their temperature or their time, whichever is dragged', () => {
    const ramp = dragged(BEGINNING, 0, 80, 1800, 20).segments[0]!
    expect([ramp.target_c, ramp.rate_c_per_min]).toEqual([80, 2])
    expect(dragged(BEGINNING, 1, 99, 600, 60).segments[1]).toMatchObject({ time_s: 600, target_c: null })
  })
})
