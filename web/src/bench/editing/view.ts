/** How one looks at a picture. */
import type { Schemas } from '../../api/client'

export type Background = Schemas['Look']['background']
export type Channel = Schemas['Look']['channel']

export interface View {
  background: Background
  channel: Channel
  exposure: number
  /** Whether light beyond white is striped. */
  clipping: boolean
}
