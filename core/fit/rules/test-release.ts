import type { FitRule } from '../question'

/** PRACTICE B4: the default is the newest production release; a test release goes on only when somebody asked for it. */
export const testRelease: FitRule = {
  id: 'test-release',
  judge({ image: { identity } }) {
    const release = identity?.release
    if (release === undefined) return null
    return release === 'production'
      ? { level: 'go', says: 'It is a production release.', because: 'Its identity block says so.' }
      : {
          level: 'hold',
          says: `This is a ${release} release.`,
          because: 'Its identity block says so.',
          remedy: 'Take the newest production release, or say who asked to try this one.',
        }
  },
}
