import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { useNavigate } from 'react-router'
import { api, got, Refused } from '../../api/client'
import { formats as formatsQuery } from '../../api/queries'
import { useDocument, useDocumentParts } from '../../document/document'
import { catalogue as catalogueQuery } from '../../recipe/asking'
import { namedLayers } from '../../recipe/naming'
import { Button } from '../../ui/Button'
import { Dialog } from '../../ui/Dialog'
import { SelectField } from '../../ui/Field'
import { NumberField } from '../../ui/NumberField'
import { useBench } from '../editing/store'

export function RenderDialog({ onClose }: { onClose(): void }) {
  const queries = useQueryClient()
  const navigate = useNavigate()
  const { recipe, shotId, saving, revision } = useDocumentParts(
    'recipe',
    'shotId',
    'saving',
    'revision',
  )
  const isAlone = useBench((store) => store.alone.length > 0)
  const catalogue = useQuery(catalogueQuery).data
  const used = new Set(recipe && catalogue ? namedLayers(recipe, catalogue) : [])
  const leftOut = (recipe?.layers ?? [])
    .filter((layer) => layer.on === false && !used.has(layer.id))
    .map((layer) => layer.name)
  const formats = useQuery(formatsQuery)
  const canvas = recipe?.canvas ?? { width: 0, height: 0, first: 0, last: 0 }
  const overscan = recipe?.canvas.overscan ?? 0
  const [first, setFirst] = useState(canvas.first)
  const [last, setLast] = useState(canvas.last)
  const [scale, setScale] = useState(1)
  const [format, setFormat] = useState('exr')
  const order = useMutation({
    mutationFn: async () => {
      await useDocument.getState().save()
      const { saving } = useDocument.getState()
      if (saving?.state !== 'saved' && saving?.state !== 'draft')
        throw new Refused(0, 'The shot could not be saved first.')
      return got(
        api.POST('/api/v1/renders', { body: { shot: shotId ?? '', first, last, scale, format } }),
      )
    },
    onSuccess: () => {
      void queries.invalidateQueries({ queryKey: ['renders'] })
      navigate('/renders')
    },
  })
  const count = last - first + 1
  const wrong =
    first < canvas.first || last > canvas.last || count < 1
      ? `Frames lie within ${canvas.first} and ${canvas.last}.`
      : undefined
  const cover =
    recipe?.cover === 'from light' ? 'Cover follows the light.' : `Cover is ${recipe?.cover}.`

  return (
    <Dialog
      open
      title="Render"
      says={`${cover} The render keeps the recipe as it is now; you can go on working.`}
      onClose={onClose}
    >
      <div className="grid gap-4">
        <div className="flex gap-6">
          <NumberField
            label="First frame"
            value={first}
            onChange={(v) => setFirst(Math.round(v))}
          />
          <NumberField label="Last frame" value={last} onChange={(v) => setLast(Math.round(v))} />
        </div>
        <SelectField
          label="Size"
          value={scale}
          onChange={(event) => setScale(Number(event.target.value))}
        >
          {[1, 0.5, 0.25].map((size) => (
            <option key={size} value={size}>
              {pxAt(canvas.width, size, overscan)} × {pxAt(canvas.height, size, overscan)} px
            </option>
          ))}
        </SelectField>
        <SelectField
          label="Format"
          value={format}
          onChange={(event) => setFormat(event.target.value)}
        >
          {formats.data?.map((known) => (
            <option key={known.name} value={known.name}>
              {known.says}
            </option>
          ))}
        </SelectField>
        {leftOut.length > 0 && (
          <p className="text-sm text-quiet">
            Left out, as {leftOut.length === 1 ? 'it is' : 'they are'} switched off:{' '}
            {leftOut.join(', ')}.
          </p>
        )}
        {isAlone && (
          <p className="text-sm text-quiet">
            The render shows all layers, also those that you do not look at now.
          </p>
        )}
        {saving?.state === 'draft' && (
          <p className="text-sm text-amber">
            What you see is a draft with problems. Revision {revision} is rendered, the last
            without.
          </p>
        )}
        {(wrong ?? order.error) && (
          <p role="alert" className="text-sm text-coral">
            {wrong ?? order.error?.message}
          </p>
        )}
        <div className="flex justify-end gap-2">
          <Button look="quiet" onClick={onClose}>
            Cancel
          </Button>
          <Button
            look="main"
            disabled={wrong !== undefined || order.isPending}
            onClick={() => order.mutate()}
          >
            Render {count} frames
          </Button>
        </div>
      </div>
    </Dialog>
  )
}

/** How many px a length of the canvas, with overscan on both sides, has at a size. */
function pxAt(length: number, size: number, overscan: number): number {
  return Math.ceil(length * size) + 2 * Math.ceil(overscan * size)
}
