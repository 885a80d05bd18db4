/** The ways in which equipment counts its versions (PRACTICE A4, B1); core/unit/version.ts orders by them. */
export const versionSchemes = ['dotted', 'decimal', 'semver', 'date', 'lettered', 'line', 'opaque'] as const
export type VersionScheme = (typeof versionSchemes)[number]
