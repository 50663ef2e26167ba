import { describe, expect, it } from 'vitest'
import { Pace } from './pace'

/** A machine on which a picture takes a fixed time and so much for its px. */
function settled(full: number): number {
  const pace = new Pace()
  let scale = 1 / 2
  pace.took(scale, 20 + full * scale ** 2)
  for (let i = 0; i < 12; i += 1) {
    scale = pace.scaleFor(1 / 2)
    pace.took(scale, 20 + full * scale ** 2)
  }
  return scale
}

describe('the size of a picture while one drags', () => {
  it('is what is asked for on a quick machine, and gives way on a slow one', () => {
    expect(settled(100)).toBe(1 / 2)
    expect(settled(400)).toBeLessThan(1 / 2)
    expect(settled(1600)).toBeLessThan(settled(400))
    expect(settled(1e6)).toBe(1 / 8)
  })

  it('is there in time once it has settled', () => {
    for (const full of [100, 300, 700, 1500]) {
      expect(20 + full * settled(full) ** 2, String(full)).toBeLessThan(80)
    }
  })

  it('grows again as the machine has time again', () => {
    const pace = new Pace()
    pace.took(1 / 2, 500)
    const small = pace.scaleFor(1 / 2)
    for (let i = 0; i < 8; i += 1) pace.took(small, 22)
    expect(pace.scaleFor(1 / 2)).toBe(1 / 2)
  })
})
