import type { Piece } from '../../recipe/types'
import { Pieces } from './Pieces'
import { PiecesPicture } from './PiecesPicture'
import { PlainValue } from './PlainValue'
import type { ValueProps } from './pieces'

/** A value in a sentence, by its type. */
export function SettingValue(props: ValueProps) {
  const { pieces } = props.setting
  if (pieces?.pictured) return <PiecesPicture {...props} value={props.value as Piece[]} />
  if (pieces) return <Pieces {...props} value={props.value as Piece[]} />
  return <PlainValue {...props} />
}
