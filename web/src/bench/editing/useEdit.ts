/** Changing the open recipe from a control: one gesture, from press to release, is one step back. */
import { useCallback } from 'react'
import { useDocument } from '../../document/document'
import type { Recipe } from '../../recipe/types'
import { useBench } from './store'

export function useEdit() {
  const change = useDocument((store) => store.change)
  const settle = useDocument((store) => store.settle)
  const setBench = useBench((store) => store.set)

  /** Change by a function of the recipe as it is now. */
  const edit = useCallback(
    (name: string, how: (recipe: Recipe) => Recipe, gesture?: string) => {
      const { recipe } = useDocument.getState()
      if (!recipe) return
      if (gesture) setBench({ dragging: true })
      change(name, how(recipe), gesture)
    },
    [change, setBench],
  )
  const finish = useCallback(() => {
    settle()
    setBench({ dragging: false })
  }, [settle, setBench])
  return { edit, finish }
}
