// Run by the bench in a process of its own: what reading one large image takes, beyond an idle process.
import {
  compareImages,
  contentDigest,
  exploreImage,
  identifyImage,
  byteCount,
  readImageFile,
} from '@bench-wake/core/image'
import { demoFamilyList } from '@bench-wake/demo'
import { readFileSync } from 'node:fs'

globalThis.gc?.()
const before = process.memoryUsage().rss
const from = performance.now()
const file: Uint8Array = readFileSync(process.argv[2]!)
const { memory } = readImageFile(file, { address: 0x0800_0000 })
contentDigest(memory)
identifyImage(memory, demoFamilyList)
exploreImage(memory, demoFamilyList)
// Against itself with one byte changed: the second is a view of the first but for one segment.
const [only] = memory
compareImages(memory, [{ address: only!.address, bytes: only!.bytes.subarray(0, only!.bytes.length - 1) }])
const ms = performance.now() - from
const extraBytes = process.resourceUsage().maxRSS * 1024 - before
process.stdout.write(JSON.stringify({ ms, extraBytes, imageBytes: byteCount(memory) }))
