/** An upload that was given up, with the status that says so. */
export class UploadError extends Error {
  override name = 'UploadError'
  constructor(
    readonly status: number,
    message: string,
  ) {
    super(message)
  }
}
