import type { Component } from '@bench-wake/core/family'
import { knownWords, type ImageIdentity } from '@bench-wake/core/image'
import { loadsOf, type RunImage } from '@bench-wake/core/run'
import type { UnitFacts } from '@bench-wake/core/unit'
import type { OpenJob } from '../store/jobs'
import type { OpenImage } from '../store/shelf'

/* What a run is told of its job, and what its record keeps of it. */

/** What is known of a component by digest, with the version that it goes with. */
export function wroteOf({ versions, digests }: UnitFacts, componentId: string) {
  const [version, sha256] = [versions[componentId], digests?.[componentId]]
  return version !== undefined && sha256 !== undefined ? { version, sha256 } : null
}

/** An image as a run's record names it, with the bytes that go into a component. */
export const imageOfRun = (component: Component, { image, memory }: OpenImage) => ({
  id: image.id,
  name: image.name,
  sha256: image.sha256,
  bytes: loadsOf(component, memory).reduce((sum, load) => sum + load.bytes.length, 0),
  ...(image.identity ? { known: knownWords(image.identity) } : {}),
  ...said(image.identity, 'version', 'variant', 'options', 'release'),
})

/** The same as the run itself needs it. */
export const runImageOf = ({ image, memory }: OpenImage): RunImage => ({
  name: image.name,
  memory,
  identity: image.identity,
  claim: image.claim,
  contentSha256: image.contentSha256,
})

/** Those members of an identity that are known. */
function said<Name extends 'version' | 'variant' | 'options' | 'release'>(
  identity: ImageIdentity | null,
  ...names: Name[]
): Partial<Record<Name, string>> {
  return Object.fromEntries(
    names.flatMap((name) => (identity?.[name] === undefined ? [] : [[name, identity[name]]])),
  ) as Partial<Record<Name, string>>
}

/** What of the bench a run's record keeps: the adapter, and what was shed for it. */
export function benchOfRun({ bench, adapters, family }: OpenJob) {
  const adapter = adapters.find(({ id }) => id === bench.wiring?.adapterId)
  const shed = (family.power.supply?.loads ?? []).filter(({ id }) => bench.shed?.includes(id))
  return {
    ...(adapter
      ? {
          adapter: {
            id: adapter.id,
            name: adapter.name,
            standing: adapter.standing,
            ...(adapter.serial ? { serial: adapter.serial } : {}),
          },
        }
      : {}),
    ...(shed.length ? { shed: shed.map((load) => load.shed) } : {}),
  }
}
