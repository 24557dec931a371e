/**
 * The pages of docs/ that are read in the app, and their pictures, as the repository has them. Loaded when
 * the guide is opened for the first time.
 */
export const guideTexts: Record<string, string> = import.meta.glob(
  ['../../docs/guide/*.md', '../../docs/glossary.md', '../../docs/reference/*.md'],
  { query: '?raw', import: 'default', eager: true },
)
export const guidePictures: Record<string, string> = import.meta.glob('../../docs/guide/*.png', {
  query: '?url',
  import: 'default',
  eager: true,
})
