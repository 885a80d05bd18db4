import type { Component, Region } from './schema'

/** The regions an image may be written to, lowest address first. */
export function applicationRegions(component: Component): Region[] {
  return component.memory.regions
    .filter((region) => region.use === 'application')
    .sort((a, b) => a.address - b.address)
}
