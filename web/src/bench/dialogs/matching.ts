/** Finding what can be done by what is typed. */

export interface Action {
  says: string
  /** What it is about, in fewer words. */
  of?: string
  run(): void
}

/** Those in which every word typed begins a word, the shorter ones first. */
export function matching(all: Action[], text: string): Action[] {
  const words = text.toLowerCase().split(/\s+/).filter(Boolean)
  const fits = ({ says, of }: Action) => {
    const known = ` ${says} ${of ?? ''}`.toLowerCase()
    return words.every((word) => known.includes(` ${word}`))
  }
  const found = all.filter(fits)
  return words.length > 0 ? found.sort((a, b) => a.says.length - b.says.length) : found
}
