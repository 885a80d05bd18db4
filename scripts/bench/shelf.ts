import { componentOf, type Family } from '@bench-wake/core/family'
import { judgeWay, type ShelfEntry } from '@bench-wake/core/fit'
import { hopMs } from '@bench-wake/core/run'
import { demoFamilyList, demoUnits, firmwareOf, handfulFamilies, handfulOf } from '@bench-wake/demo'
import { contentDigest, identifyImage, rangesOf, readImageFile, writeIntelHex } from '@bench-wake/core/image'
import { factsOf, knownPage } from '@bench-wake/core/unit'
import { execFileSync } from 'node:child_process'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { monitorEventLoopDelay } from 'node:perf_hooks'
import { fileURLToPath, pathToFileURL } from 'node:url'
import { openDatabase } from '../../server/db/open'
import { families, imageFiles, images, imageIdentities, snapshots, units } from '../../server/db/schema'
import { WorkerThread } from '../../server/worker/worker-thread'
import { medianMs, type Bench } from './figure'

const imageCount = 10_000
const unitCount = 1_000

/** One read image of each kind of each family: what the ten thousand are varied from. */
const samples = handfulFamilies.flatMap((familyId) =>
  handfulOf(familyId).map(({ name, file }) => {
    const read = readImageFile(file, { families: demoFamilyList })
    return {
      name,
      read,
      identity: identifyImage(read.memory, demoFamilyList)!,
      digest: contentDigest(read.memory),
    }
  }),
)

/** Every image against every unit, as the server does it: in its thread, on tables of its own. */
export const matrix: Bench = {
  name: 'matrix',
  async measure() {
    const folder = mkdtempSync(join(tmpdir(), 'bench-wake-matrix-'))
    const url = pathToFileURL(join(folder, 'matrix.db')).href
    const { db, close } = await openDatabase(url)
    const { demoFamilies } = await import('@bench-wake/demo')
    for (const document of demoFamilies) {
      await db.insert(families).values({ id: document.id, revision: 1, document, addedAt: 1 })
    }
    const many = <T>(count: number, row: (index: number) => T) =>
      Array.from({ length: count }, (_, at) => row(at))
    const inParts = async <T>(rows: T[], put: (part: T[]) => Promise<unknown>) => {
      for (let at = 0; at < rows.length; at += 500) await put(rows.slice(at, at + 500))
    }
    const sampleOf = (index: number) => samples[index % samples.length]!
    await inParts(
      many(imageCount, (at) => ({
        id: `image-${at}`,
        contentSha256: `${sampleOf(at).digest}-${at}`,
        addedAt: at,
        facts: {
          format: sampleOf(at).read.format,
          segments: rangesOf(sampleOf(at).read.memory),
          placed: sampleOf(at).read.placed,
        },
      })),
      (part) => db.insert(images).values(part),
    )
    await inParts(
      many(imageCount, (at) => ({
        imageId: `image-${at}`,
        name: `${at}-${sampleOf(at).name}`,
        sha256: `${at}`,
        size: 1,
        addedAt: at,
      })),
      (part) => db.insert(imageFiles).values(part),
    )
    await inParts(
      many(imageCount, (at) => ({
        imageId: `image-${at}`,
        profiles: 'bench',
        // Versions of their own, so that hardly two verdicts read alike.
        identity: {
          ...sampleOf(at).identity,
          version: `${sampleOf(at).identity.version ?? '1'}${at % 7 ? '' : `.${at}`}`,
        },
      })),
      (part) => db.insert(imageIdentities).values(part),
    )
    const known = demoUnits.filter(({ pages }) => pages.length > 0)
    await inParts(
      many(unitCount, (at) => {
        const { familyId, name, place } = known[at % known.length]!
        return { id: `unit-${at}`, familyId, name: `${name} ${at}`, place, serial: `S-${at}`, addedAt: at }
      }),
      (part) => db.insert(units).values(part),
    )
    await inParts(
      many(unitCount, (at) => {
        const { pages } = known[at % known.length]!
        const lines = Object.entries(
          Object.assign({}, ...pages.map((page) => page.lines)) as Record<string, string>,
        )
        return {
          unitId: `unit-${at}`,
          at,
          source: 'menu' as const,
          lines: lines.map(([field, value]) => ({
            field,
            label: field,
            value: field === 'serial' ? `S-${at}` : value,
          })),
        }
      }),
      (part) => db.insert(snapshots).values(part),
    )
    const heavy = new WorkerThread(url)
    await heavy.ask('matrix', { against: 'revisions' })
    const delay = monitorEventLoopDelay({ resolution: 5 })
    delay.enable()
    const ms = await medianMs(3, () => heavy.ask('matrix', { against: 'units' }))
    delay.disable()
    await heavy.close()
    close()
    rmSync(folder, { recursive: true, force: true })
    const worst = delay.max / 1e6
    return [
      {
        name: 'Fits, 10 000 images against 1 000 units of ten families, in the server’s thread',
        value: ms,
        unit: 'ms',
        reference: 1000,
        ratio: ms / 1000,
        wanted: 'under 1 s',
        holds: ms < 1000,
      },
      {
        name: 'Longest turn of the server meanwhile',
        value: worst,
        unit: 'ms',
        wanted: 'under 50',
        holds: worst < 50,
      },
    ]
  },
}

/** One verdict with its way, on a family with a hundred images on the shelf. */
export const verdict: Bench = {
  name: 'verdict',
  async measure() {
    const family = demoFamilyList.find(({ id }) => id === 'boat-davit') as Family
    const shelf: ShelfEntry[] = [
      '5.2.0',
      '5.2.1',
      ...Array.from({ length: 15 }, (_, at) => `5.3.${at}`),
    ].flatMap((version) =>
      family.components.map(({ id }) => {
        const bytes = firmwareOf(family, {
          component: id,
          length: 0x2000,
          fields: {
            deviceIdentifier: 'DV-6',
            hardwareMajor: 3,
            version,
            release: 'production',
            buildTime: 1_780_000_000,
          },
        })
        const memory = [
          {
            address: componentOf(family, id).memory.regions.find(({ use }) => use === 'application')!.address,
            bytes,
          },
        ]
        return {
          id: `${id}-${version}`,
          name: `${id}-${version}`,
          segments: rangesOf(memory),
          identity: identifyImage(memory, [family]),
          contentSha256: contentDigest(memory),
        }
      }),
    )
    const davit = demoUnits.find(({ id }) => id === 'davit-1')!
    const page = davit.pages.map(({ source, at, lines }) => ({
      source,
      at: Date.parse(at),
      lines: Object.entries(lines).map(([field, value]) => ({ field, label: field, value })),
    }))
    const unit = factsOf(knownPage(page), family)
    const workshopRules = { update: 'current', hops: 'sequential', adapters: 'any' } as const
    const one = (wanted: ShelfEntry) =>
      judgeWay({
        family,
        unit,
        shelf,
        wanted,
        workshopRules,
        hopMs: (component, { segments }) => hopMs(family, component, segments),
      })
    const far = await medianMs(21, () => one(shelf.at(-1)!))
    const near = await medianMs(21, () => one(shelf[0]!))
    return [
      {
        name: 'A verdict with its way, six joints, next release',
        value: near,
        unit: 'ms',
        wanted: 'under 5',
        holds: near < 5,
      },
      { name: 'The same, 17 releases in sequence (102 writes)', value: far, unit: 'ms' },
    ]
  },
}

/** Reading, digesting, identifying and comparing a 64 MiB image: time, and the most memory it takes. */
export const large: Bench = {
  name: 'large-image',
  async measure() {
    const folder = mkdtempSync(join(tmpdir(), 'bench-wake-large-'))
    const size = 64 * 1024 * 1024
    const bytes = new Uint8Array(size)
    const words = new Uint32Array(bytes.buffer)
    let seed = 9
    for (let at = 0; at < words.length; at++)
      words[at] = seed = (Math.imul(seed, 1_664_525) + 1_013_904_223) >>> 0
    const [bin, hex] = [join(folder, 'a.bin'), join(folder, 'a.hex')]
    writeFileSync(bin, bytes)
    writeFileSync(hex, writeIntelHex([{ address: 0x0800_0000, bytes }]))
    const child = fileURLToPath(new URL('./large-image.ts', import.meta.url))
    const run = (file: string) =>
      JSON.parse(
        execFileSync(process.execPath, ['--import', 'tsx', '--expose-gc', child, file], { encoding: 'utf8' }),
      ) as { ms: number; extraBytes: number; imageBytes: number }
    const figures = [
      ['plain binary', run(bin)],
      ['Intel HEX', run(hex)],
    ] as const
    rmSync(folder, { recursive: true, force: true })
    return figures.flatMap(([name, { ms, extraBytes, imageBytes }]) => [
      { name: `64 MiB as ${name}: read, digested, identified, compared`, value: ms, unit: 'ms' },
      {
        name: `64 MiB as ${name}: memory at the most`,
        value: extraBytes / 1e6,
        unit: 'MB',
        reference: imageBytes / 1e6,
        ratio: extraBytes / imageBytes,
        wanted: 'under four times the image',
        holds: extraBytes < 4 * imageBytes,
      },
    ])
  },
}
