import { describe, expect, it } from 'vitest'
import { hexOf, hsvOf } from './colour'

describe('colours', () => {
  it('turn into hue, saturation and value as the hexcone has them', () => {
    expect(hsvOf('#ff0000')).toEqual({ hue: 0, saturation: 100, value: 100 })
    expect(hsvOf('#00ff00')).toEqual({ hue: 120, saturation: 100, value: 100 })
    expect(hsvOf('#0000ff')).toEqual({ hue: 240, saturation: 100, value: 100 })
    expect(hsvOf('#808080')).toEqual({ hue: 0, saturation: 0, value: 50 })
    expect(hsvOf('#ffff00').hue).toBe(60)
    expect(hsvOf('#ff00ff').hue).toBe(300)
  })

  it('come back', () => {
    for (const hex of ['#ff0000', '#00ffff', '#ffffff', '#000000', '#3366cc', '#804000']) {
      expect(hexOf(hsvOf(hex))).toBe(hex)
    }
  })
})
