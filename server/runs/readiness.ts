import type { Family } from '@bench-wake/core/family'
import { shutLinkOf } from '@bench-wake/core/job'
import { Problem, dayAt, verdictOf, type Finding } from '@bench-wake/core/kernel'
import { channelOf, standInPort } from '@bench-wake/core/link'
import {
  benchGates,
  gatesBeforeLink,
  isolationNow,
  judgeLaptopFor,
  judgePort,
  shutLink,
  type Gate,
  type LaptopSay,
  type LaptopTask,
} from '@bench-wake/core/ready'
import type { Database } from '../db/open'
import type { PortHolds } from '../ports/holds'
import type { Ports } from '../ports/ports'
import { refusePractice } from '../ports/practice-port'
import type { Readings } from '../ports/readings'
import { caseFindings } from '../store/case-gate'
import { getWorkshopRules } from '../store/workshop-rules'
import { fitGates } from '../store/job-gates'
import { openJob, type OpenJob } from '../store/jobs'
import { laptopNow } from '../store/laptop'
import type { Shelf } from '../store/shelf'

/** Whether a job may start, and whether its link may be opened, judged now. */
export class Readiness {
  constructor(
    private readonly db: Database,
    private readonly shelf: Shelf,
    private readonly ports: Ports,
    private readonly holds: PortHolds,
    private readonly readings: Readings,
    /** What is under way, with the time it still takes on the wall's clock. */
    private readonly underWay: (exceptJob?: string) => LaptopTask[],
  ) {}

  /** Every gate between a job and its run. `unknown` is never go. */
  async ready(jobId: string, portId: string | null, typedVolts: number | null): Promise<Gate[]> {
    const open = await openJob(this.db, this.shelf, jobId)
    return this.gatesOf(open, portId, typedVolts)
  }

  async gatesOf(open: OpenJob, portId: string | null, typedVolts: number | null): Promise<Gate[]> {
    const today = dayAt(Date.now())
    const port = portId === null ? null : await this.ports.find(portId, this.holds.by)
    const onStandIn = port
      ? port.kind === 'stand-in'
      : this.ports.standIn(standInPort(open.unit.id)) !== undefined
    const rounds = await caseFindings(this.db, this.shelf, open.job)
    const standing = fitGates(open, today, onStandIn).map((gate) =>
      gate.id === 'fit' && rounds ? withFindings(gate, rounds) : gate,
    )
    const metered = port?.hasMeter && !port.heldBy ? await this.readings.volts(port.id) : null
    // A stand-in whose meter is silent stays unmeasured; at a real bench a person may measure instead.
    const measured = metered ?? (port?.hasMeter && onStandIn ? null : typedVolts)
    const bench = benchGates({
      family: open.family,
      said: open.bench,
      stretches: open.stretches,
      metered: measured,
      adapters: open.adapters,
      workshopRules: open.workshopRules,
      kit: open.kit,
      day: open.job.day,
      today,
      now: Date.now(),
      standIn: port?.kind === 'stand-in',
      underWay: this.underWay(open.job.id),
    })
    // Without a link of its own the program opens no port.
    if (!open.link) return [...standing, ...bench]
    return [
      ...standing,
      judgePort(
        port && {
          id: port.id,
          name: port.name,
          standIn: port.kind === 'stand-in',
          present: port.present,
          ...(port.channel === channelOf(open.link) ? {} : { otherChannel: port.channel }),
          ...(port.heldBy ? { heldBy: port.heldBy } : {}),
          ...(port.program ? { program: port.program } : {}),
        },
      ),
      ...bench,
    ]
  }

  /** Whether the laptop lasts for every run under way (PRACTICE D3). */
  async laptop(): Promise<{ say: LaptopSay | null; gate: Gate }> {
    const say = await laptopNow(this.db)
    return { say: say ?? null, gate: judgeLaptopFor(say, null, this.underWay(), Date.now()) }
  }

  /**
   * Refuses to open a port while what its link rests on does not stand: order of power, wiring, isolation.
   * @param open the job whose bench is judged; without one nothing is said, and `looked` counts alone.
   * @param looked rules that a person answers for at this very reading.
   * @param scanning true where the bus is only counted, which is what isolation waits for.
   * @returns what was judged.
   * @throws Problem `link-shut` that names the first thing in the way.
   */
  async refuseShutLink(
    portId: string,
    family: Family,
    open: OpenJob | null,
    { looked = [], scanning = false }: { looked?: readonly string[]; scanning?: boolean } = {},
  ): Promise<Gate[]> {
    if (open) refusePractice(portId, open.unit.id)
    const entry = await this.ports.find(portId, this.holds.by)
    const gates = gatesBeforeLink({
      family,
      said: open?.bench ?? {},
      adapters: open?.adapters ?? [],
      workshopRules: open?.workshopRules ?? (await getWorkshopRules(this.db)),
      now: Date.now(),
      standIn: entry.kind === 'stand-in',
    }).filter(({ id }) => !scanning || id !== 'isolation')
    const shut = open
      ? shutLinkOf(gates, open.job.releases)
      : shutLink(gates).filter(({ rule }) => !looked.includes(rule))
    const [first] = shut
    // What hangs on a stand-in's bus is what nobody took off.
    if (!first && family.isolation && !scanning)
      this.ports.takeOff(
        portId,
        open
          ? (isolationNow(open.bench)?.unplugged ?? [])
          : looked.includes('neighbours-off')
            ? family.isolation.neighbours.map(({ id }) => id)
            : [],
      )
    if (!first) return gates
    throw new Problem({
      kind: 'link-shut',
      thing: family.name,
      place: { at: first.rule },
      says: `the link is not opened yet: ${first.says.replace(/\.$/, '')}`,
      found: first.because,
      remedy: [
        first.remedy ?? 'Put it right, and say so.',
        ...(shut.length > 1 ? [`${shut.length - 1} more stand in the way.`] : []),
      ].join(' '),
    })
  }
}

function withFindings(gate: Gate, more: readonly Finding[]): Gate {
  const findings = [...gate.findings, ...more]
  return { ...gate, findings, verdict: verdictOf(findings) }
}
