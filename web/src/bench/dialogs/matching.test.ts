import { describe, expect, it } from 'vitest'
import { matching } from './matching'

const run = () => {}
const ALL = [
  { says: 'branch width of bolt', of: 'Main channel', run },
  { says: 'width of bolt', of: 'Main channel', run },
  { says: 'width of bolt', of: 'Side threads', run },
  { says: 'Undo change width', run },
]
const found = (text: string) => matching(ALL, text).map(({ says, of }) => [says, of])

describe('searching', () => {
  it('finds what has words that begin so, the shortest first', () => {
    expect(found('wid')[0]).toEqual(['width of bolt', 'Main channel'])
    expect(found('wid')).toHaveLength(4)
    expect(found('width thr')).toEqual([['width of bolt', 'Side threads']])
    expect(found('idth')).toEqual([])
  })

  it('shows all in order while nothing is typed', () => {
    expect(matching(ALL, ' ')).toEqual(ALL)
  })
})
