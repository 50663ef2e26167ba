import { describe, expect, it } from 'vitest'
import { Turns } from './turns'

describe('turns', () => {
  it('lets so many go at once, and the others in the order in which they asked', () => {
    const turns = new Turns(2)
    const gone: string[] = []
    const [a, b, c, d] = ['a', 'b', 'c', 'd'].map((name) => turns.ask(() => gone.push(name)))
    expect(gone).toEqual(['a', 'b'])
    b?.()
    expect(gone).toEqual(['a', 'b', 'c'])
    a?.()
    a?.()
    expect(gone).toEqual(['a', 'b', 'c', 'd'])
    c?.()
    d?.()
    turns.ask(() => gone.push('e'))
    turns.ask(() => gone.push('f'))
    turns.ask(() => gone.push('g'))
    expect(gone.slice(4)).toEqual(['e', 'f'])
  })

  it('passes over who does not wait any more', () => {
    const turns = new Turns(1)
    const gone: string[] = []
    const [a, b] = ['a', 'b', 'c'].map((name) => turns.ask(() => gone.push(name)))
    b?.()
    a?.()
    expect(gone).toEqual(['a', 'c'])
  })
})
