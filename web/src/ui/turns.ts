/**
 * Pictures that only make a list prettier are fetched a few at a time: a browser has six connections to
 * a server, and what a person does must find one free.
 */
const MOST_AT_ONCE = 2

/** Whoever asks goes as soon as few enough do, in the order in which they asked. */
export class Turns {
  private going = 0
  private readonly waiting = new Set<() => void>()

  constructor(private readonly most: number) {}

  /** Calls `go` when it is its turn. What is given back ends that turn, or the wait for it. */
  ask(go: () => void): () => void {
    let isGoing = false
    let isOver = false
    const begin = () => {
      isGoing = true
      this.going += 1
      go()
    }
    if (this.going < this.most) begin()
    else this.waiting.add(begin)
    return () => {
      if (isOver) return
      isOver = true
      this.waiting.delete(begin)
      if (!isGoing) return
      this.going -= 1
      const [next] = this.waiting
      if (!next) return
      this.waiting.delete(next)
      next()
    }
  }
}

export const pictureTurns = new Turns(MOST_AT_ONCE)
