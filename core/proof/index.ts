export * from './compare-snapshots'
export * from './judge-backup'
