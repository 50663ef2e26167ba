import { useDocumentParts } from '../../document/document'
import { Button } from '../../ui/Button'
import { Dialog } from '../../ui/Dialog'

/** The shot was saved elsewhere meanwhile: nothing is overwritten before the person has chosen. */
export function StaleDialog() {
  const { saving, takeTheirs, saveOver } = useDocumentParts('saving', 'takeTheirs', 'saveOver')
  if (saving?.state !== 'stale') return null
  return (
    <Dialog
      open
      title="This shot was saved elsewhere"
      says={`Revision ${saving.revision} was saved while you worked here. Both versions are kept as revisions, whichever you go on with.`}
      onClose={() => undefined}
    >
      <div className="flex justify-end gap-2">
        <Button onClick={takeTheirs}>Go on with the newer one</Button>
        <Button look="main" onClick={() => void saveOver()}>
          Save mine on top
        </Button>
      </div>
    </Dialog>
  )
}
