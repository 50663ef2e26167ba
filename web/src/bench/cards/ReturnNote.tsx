import { useDocument } from '../../document/document'
import type { KindEntry, Layer } from '../../recipe/types'
import { Button } from '../../ui/Button'
import { make } from '../editing/make'

/** In a shot that loops, what boils may return with it, so that it needs no dissolve. */
export function ReturnNote({ layer, kind }: { layer: Layer; kind: KindEntry }) {
  const loops = useDocument((store) => Boolean(store.recipe?.loop))
  const boils = kind.settings.filter((setting) => setting.returns)
  if (!loops || boils.every((setting) => layer.source[setting.returns])) return null
  return (
    <Button
      look="quiet"
      className="-ml-2 w-fit"
      onClick={() =>
        make('return with the loop', { does: 'return with the loop', layer: layer.id })
      }
    >
      Return with the loop
    </Button>
  )
}
