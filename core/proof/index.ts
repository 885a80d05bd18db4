export * from './compare-snapshots'
