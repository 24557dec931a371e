/** The right of one tab to edit a project (Web Locks). Where the browser has none, every tab has it. */
export class ProjectLock {
  private constructor(
    readonly id: string,
    readonly isHeld: boolean,
    private readonly letGo: () => void,
    private readonly gone: Promise<unknown>,
  ) {}

  /** Asks for the right; does not wait for it. */
  static claim(id: string): Promise<ProjectLock> {
    if (!('locks' in navigator))
      return Promise.resolve(new ProjectLock(id, true, () => {}, Promise.resolve()))
    return new Promise((resolve) => {
      let letGo = (): void => {}
      const gone: Promise<unknown> = navigator.locks.request(
        `oleaje:${id}`,
        { ifAvailable: true },
        (lock) => {
          const held = lock
            ? new Promise<void>((done) => {
                letGo = done
              })
            : undefined
          // what is asked for within this call is not known before it ends
          queueMicrotask(() => resolve(new ProjectLock(id, lock !== null, letGo, gone)))
          return held
        },
      )
    })
  }

  /** Gives the right back; done when another may have it. */
  async release(): Promise<void> {
    this.letGo()
    await this.gone
  }
}
