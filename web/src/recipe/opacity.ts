import type { Setting } from './types'

/** A layer's own value, which no kind declares. */
export const OPACITY: Setting = {
  name: 'opacity',
  type: 'number',
  default: 100,
  help: 'How much of the layer is mixed in.',
  unit: '%',
  least: 0,
  most: 100,
  usual: null,
  choices: [],
  moves: ['keys', 'rate', 'jitter', 'pulse', 'formula', 'life', 'like'],
  drawn: null,
  about: '',
  of: null,
  pieces: null,
}
