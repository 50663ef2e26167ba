/** Ways of moving as an engine may declare them, for tests. */
import type { MoveEntry, MoveField } from './moves'

const field = (
  name: string,
  type: MoveField['type'],
  more: Partial<MoveField> = {},
): MoveField => ({
  ...{ name, label: name, type, unit: '', least: null, most: null },
  ...{ choices: {}, names: [], absent: null, begins: null },
  ...more,
})

const way = (name: string, says: string, carried: string[], ...fields: MoveField[]): MoveEntry => ({
  ...{ name, help: '', says, mark: '', carried, dragged: '', fields },
})

const now = { begins: 'now' }

export const KNOWN: MoveEntry[] = [
  way('keys', '{keys}', ['keys'], field('keys', 'keys', now)),
  way(
    'rate',
    '{per_second}',
    ['start'],
    field('start', 'still', now),
    field('per_second', 'change', { unit: '/s', begins: 'none' }),
  ),
  way(
    'jitter',
    '{value} ± {amount}',
    ['value'],
    field('value', 'under', now),
    field('amount', 'change', { begins: 'none' }),
    field('per_second', 'number', { begins: 10 }),
  ),
  way('formula', '{formula}', ['value'], field('formula', 'text', { begins: 'still' })),
  way(
    'follow',
    '{point}{track}',
    ['offset'],
    field('point', 'name', { names: ['points', 'tracks'] }),
    field('offset', 'change'),
  ),
  way(
    'life',
    '{start} to {end}',
    ['start', 'end'],
    field('start', 'still', { begins: 'none' }),
    field('end', 'still', now),
  ),
  way('like', 'as {setting}', ['offset'], field('setting', 'setting', now)),
]
