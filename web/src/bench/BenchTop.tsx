import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'
import type { Problem } from '../api/client'
import { isUnderWay, renders as rendersQuery } from '../api/queries'
import { useDocument, useDocumentParts } from '../document/document'
import { whereIs } from '../recipe/problems'
import type { Recipe } from '../recipe/types'
import { Button } from '../ui/Button'
import { Dialog } from '../ui/Dialog'
import { GettingReady } from '../ui/GettingReady'
import type { Action } from './dialogs/matching'
import { NamedDialog } from './dialogs/NamedDialog'
import { RenderDialog } from './dialogs/RenderDialog'
import { RevisionsDialog } from './dialogs/RevisionsDialog'
import { SearchDialog } from './dialogs/SearchDialog'
import { ShotDialog } from './dialogs/ShotDialog'
import { SHORTCUTS } from './useShortcuts'

type Opened = 'search' | 'shot' | 'named' | 'revisions' | 'shortcuts' | 'render'

export function BenchTop({ onPlay }: { onPlay(): void }) {
  const {
    shotId = '',
    recipe,
    past = [],
    future = [],
    undo,
    redo,
    change,
  } = useDocumentParts('shotId', 'recipe', 'past', 'future', 'undo', 'redo', 'change')
  const renders = useQuery(rendersQuery(shotId))
  const [dialog, setDialog] = useState<Opened>()
  const close = () => setDialog(undefined)
  if (!recipe) return null
  const { width, height, rate, first, last } = recipe.canvas
  const underWay = renders.data?.filter(isUnderWay).length ?? 0
  const undoName = past.at(-1)?.name
  const redoName = future.at(-1)?.name

  const actions: Action[] = [
    { says: 'Play or stop', run: onPlay },
    ...(undoName && undo ? [{ says: `Undo ${undoName}`, run: undo }] : []),
    ...(redoName && redo ? [{ says: `Redo ${redoName}`, run: redo }] : []),
    { says: 'Settings of the shot', run: () => setDialog('shot') },
    { says: 'What has a name: points, tracks, paths, cameras', run: () => setDialog('named') },
    { says: 'Revisions', run: () => setDialog('revisions') },
    { says: 'Render', run: () => setDialog('render') },
    { says: 'Shortcuts', run: () => setDialog('shortcuts') },
  ]

  return (
    <header className="flex min-h-11 shrink-0 flex-wrap items-center gap-x-2 border-b border-line px-4">
      <Link to="/" className="text-quiet hover:text-text">
        Shots
      </Link>
      <span className="text-faint">/</span>
      <input
        aria-label="Name of the shot"
        value={recipe.name}
        maxLength={80}
        onChange={(event) =>
          event.target.value.trim() &&
          change('rename shot', { ...recipe, name: event.target.value }, 'rename')
        }
        onBlur={() => useDocument.getState().settle()}
        className="field-sizing-content min-w-20 rounded px-1 font-semibold hover:bg-raised"
      />
      <button
        type="button"
        onClick={() => setDialog('shot')}
        className="rounded px-1 text-sm text-quiet hover:bg-raised"
      >
        <span className="sr-only">Settings of the shot: </span>
        {width} × {height} · {rate} fps · {last - first + 1} frames
      </button>
      <div className="ml-auto flex max-w-full flex-wrap items-center justify-end gap-2 py-1">
        <SavingState />
        <GettingReady />
        <Button look="quiet" onClick={() => setDialog('revisions')}>
          Revisions
        </Button>
        <Button
          look="quiet"
          disabled={!undoName}
          onClick={undo}
          title={undoName && `Undo ${undoName}`}
        >
          Undo
        </Button>
        <Button
          look="quiet"
          disabled={!redoName}
          onClick={redo}
          title={redoName && `Redo ${redoName}`}
        >
          Redo
        </Button>
        <Button id="show-search" look="quiet" onClick={() => setDialog('search')}>
          Search
        </Button>
        <Button id="show-shortcuts" look="quiet" onClick={() => setDialog('shortcuts')}>
          Shortcuts
        </Button>
        <Link
          to="/renders"
          className="inline-flex h-7 items-center rounded-full border border-line px-3 text-sm hover:bg-raised"
        >
          Renders{underWay > 0 && ` · ${underWay}`}
        </Link>
        <Button look="main" onClick={() => setDialog('render')}>
          Render…
        </Button>
      </div>
      {dialog === 'render' && <RenderDialog onClose={close} />}
      {dialog === 'named' && <NamedDialog onClose={close} />}
      {dialog === 'search' && <SearchDialog onClose={close} actions={actions} />}
      <ShotDialog open={dialog === 'shot'} onClose={close} onNamed={() => setDialog('named')} />
      <RevisionsDialog open={dialog === 'revisions'} onClose={close} />
      <Dialog title="Shortcuts" open={dialog === 'shortcuts'} onClose={close}>
        <dl className="grid grid-cols-[auto_1fr] gap-x-6 gap-y-2 text-sm">
          {SHORTCUTS.map(([key, says]) => (
            <div key={key} className="contents">
              <dt className="font-semibold">{key}</dt>
              <dd className="text-quiet">{says}</dd>
            </div>
          ))}
        </dl>
      </Dialog>
    </header>
  )
}

/** Problems in words, one a line. */
function toldIn(recipe: Recipe | undefined, problems: Problem[]): string {
  return problems
    .map(({ path, says }) => `${recipe ? whereIs(recipe, path) : path}: ${says}`)
    .join('\n')
}

function SavingState() {
  const { saving, save, recipe, changing } = useDocumentParts(
    'saving',
    'save',
    'recipe',
    'changing',
  )
  if (saving?.state === 'failed') {
    const where = toldIn(recipe, saving.problems)
    return (
      <button
        type="button"
        title={where || undefined}
        onClick={() => void save()}
        className="max-w-96 truncate text-sm text-coral"
      >
        Not saved. {saving.says} Try again
      </button>
    )
  }
  if (saving?.state === 'draft') {
    return (
      <span
        role="status"
        title={toldIn(recipe, saving.problems)}
        className="max-w-96 truncate text-sm text-amber"
      >
        Kept as a draft. {toldIn(recipe, saving.problems.slice(0, 1))}
      </span>
    )
  }
  const says = { saved: 'Saved', waiting: 'Not saved yet', saving: 'Saving …' }
  return (
    <span role="status" className="text-sm text-quiet">
      {changing > 0 ? 'Changing …' : saving && says[saving.state]}
    </span>
  )
}
