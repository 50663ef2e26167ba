/** A kind's sentence in parts: words, and the settings that stand between them. */
import type { KindEntry, Setting } from './types'

/** `after` is the punctuation that must not be parted from a value. */
export type Part = { words: string } | { setting: Setting; after: string }

type Says = Pick<KindEntry, 'says' | 'settings'>

export function sentenceOf(kind: Says): Part[] {
  return kind.says
    .split(/(\{\w+\}[.,;:]*)/)
    .filter((piece) => piece !== '')
    .map((piece) => {
      const [, name, after = ''] = piece.match(/^\{(\w+)\}([.,;:]*)$/) ?? []
      const setting = kind.settings.find((known) => known.name === name)
      return setting ? { setting, after } : { words: piece }
    })
}

/** The settings that the sentence does not name. */
export function settingsBeside(kind: KindEntry): Setting[] {
  return kind.settings.filter((setting) => !kind.says.includes(`{${setting.name}}`))
}

/** A setting's name as one reads it. */
export function spoken(name: string): string {
  return name.replaceAll('_', ' ')
}

/** One of several alike, by the name of the setting that holds them. */
export function oneOf(name: string): string {
  return spoken(name).replace(/s$/, '')
}
