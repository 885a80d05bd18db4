/** One thing one could do in a fault drill. */
export interface DrillMove {
  id: string
  says: string
  /** `unsafe` could break the unit or hurt somebody; `wrong` leads nowhere. Moves of the right order have neither. */
  harm?: 'unsafe' | 'wrong'
  /** What comes of it. */
  then: string
}

/** A fault and the right moves in their order (PRACTICE H6, H7, F1 to F4, D1, G5; common practice). */
export interface FaultDrill {
  id: string
  name: string
  situation: string
  moves: readonly DrillMove[]
  /** The right moves in order, by id. */
  order: readonly string[]
}

const move = (id: string, says: string, then: string, harm?: DrillMove['harm']): DrillMove => ({
  id,
  says,
  then,
  ...(harm ? { harm } : {}),
})

export const faultDrills: readonly FaultDrill[] = [
  {
    id: 'cut-at-60',
    name: 'Cut at 60 %',
    situation:
      'The plug came out under somebody’s foot, at six tenths of the write. The unit’s lamp is dark.',
    order: ['leave-on', 'plug', 're-enter', 'write-again', 'prove'],
    moves: [
      move('leave-on', 'Leave the unit powered', 'Its bootloader still waits. Nothing is lost.'),
      move('plug', 'Push the plug home and see the port listed', 'The port is back.'),
      move('re-enter', 'Ask the bootloader who it is', 'It answers, and says that it has no application.'),
      move('write-again', 'Write again from the beginning', 'All of it acknowledged.'),
      move('prove', 'Power cycle as ordered, then read the version', 'The unit says the new version itself.'),
      move(
        'power-off',
        'Switch the unit off and on to clear it',
        'With half an application some units come up in nothing at all.',
        'unsafe',
      ),
      move(
        'resume',
        'Send only the missing bytes',
        'This family does not take up where it was cut: the block is refused.',
        'wrong',
      ),
      move(
        'older',
        'Send the old image, it fitted before',
        'This family refuses an older one, and nothing was wrong with the new.',
        'wrong',
      ),
    ],
  },
  {
    id: 'swapped-pair',
    name: 'Nothing answers',
    situation: 'The port is there, the unit is on, the header is soldered. The line is silent.',
    order: ['look-pair', 'swap', 'try'],
    moves: [
      move('look-pair', 'Follow the two signal wires', 'Transmit is on transmit.'),
      move('swap', 'Swap the two wires', 'Like goes to unlike now. Nothing was harmed.'),
      move('try', 'Try again from power off', 'The bootloader answers.'),
      move('higher', 'Set the adapter to 5 V for a stronger signal', 'A 3.3 V board dies on 5 V.', 'unsafe'),
      move(
        'driver',
        'Install the driver again',
        'The port was there: its driver is not the matter.',
        'wrong',
      ),
      move('other-image', 'Try another image', 'The unit has not even been asked yet.', 'wrong'),
    ],
  },
  {
    id: 'sag',
    name: 'The supply sags',
    situation: 'Before the write: 12.1 V at the terminals, floor 12.0 V. The headlamps are on.',
    order: ['hold', 'fuse', 'charger', 'measure', 'start'],
    moves: [
      move('hold', 'Do not start', 'At the last byte it would stand below its floor.'),
      move(
        'fuse',
        'Pull the headlamp fuse, and note it',
        '11 A less. The fuse lies in the tray, by its name.',
      ),
      move('charger', 'Put a charger of 20 A on the battery', 'It stays on through read and write.'),
      move('measure', 'Measure again at the terminals', '12.9 V.'),
      move('start', 'Start the write', 'It stays above the floor. The fuse is demanded back at the close.'),
      move(
        'quick',
        'Start now, it is above the floor',
        'It browns out at four fifths. This is the classic way to kill a unit.',
        'unsafe',
      ),
      move(
        'engine',
        'Run the motor to charge',
        'Key on and motor off, all the way through: a start pulls the supply to its knees.',
        'unsafe',
      ),
      move('floor', 'Type a lower floor', 'The floor is the unit’s, not ours.', 'wrong'),
    ],
  },
  {
    id: 'second-unit',
    name: 'Two on the bus',
    situation: 'The scan of the bus shows noise at address 1. The image is ready.',
    order: ['stop', 'unplug', 'switch', 'scan', 'write'],
    moves: [
      move('stop', 'Write nothing', 'With a second unit the wrong one, or both, are destroyed.'),
      move('unplug', 'Unplug every other unit', 'One plug is in the jack.'),
      move('switch', 'Set the address switch: first lever on, the rest off', 'It stands as drawn.'),
      move('scan', 'Scan again', 'One unit answers, at address 1.'),
      move('write', 'Write', 'It is the right one, and the only one.'),
      move(
        'address-2',
        'Set the other one to address 2 and leave it on',
        'In its bootloader it listens to every address.',
        'unsafe',
      ),
      move('slower', 'Lower the speed', 'Two voices at once are noise at any speed.', 'wrong'),
    ],
  },
  {
    id: 'wrong-variant',
    name: 'The wrong variant',
    situation:
      'Two files of version 4.08 lie there. The launch’s signal output is on channel 3. You hold the one for high channels.',
    order: ['ask', 'choose', 'check', 'write'],
    moves: [
      move('ask', 'Ask on which channel the output is, and note who says so', 'Channel 3, says the skipper.'),
      move('choose', 'Take the image for low channels', 'Same version, other form.'),
      move('check', 'Look at its digest and variant, not at its name', 'low-channel, as the unit is used.'),
      move('write', 'Write it', 'The output is where it was.'),
      move(
        'any',
        'Either will do, it is the same version',
        'The output is dead on this launch; the job comes back.',
        'wrong',
      ),
      move('both', 'Write both, one after the other', 'The second write undoes the first.', 'wrong'),
    ],
  },
  {
    id: 'missed-window',
    name: 'The relays chatter',
    situation: 'Key on, confirmed by feel. The relays chatter and the fans run.',
    order: ['key-off', 'wait', 'again', 'confirm', 'quiet'],
    moves: [
      move('key-off', 'Key off', 'The chatter ends.'),
      move('wait', 'Count ten', 'The controller has let go.'),
      move('again', 'Key on, motor off, all the way through', 'The window is open for two seconds.'),
      move('confirm', 'Confirm at once', 'In time.'),
      move('quiet', 'Listen: relays and fans stay quiet', 'Silence is success.'),
      move(
        'write-on',
        'Write anyway',
        'It is not in its bootloader; the first bytes go to a running motor controller.',
        'unsafe',
      ),
      move(
        'start-motor',
        'Start the motor to reset it',
        'The motor is off, all the way through. People stand at the propeller.',
        'unsafe',
      ),
      move('confirm-late', 'Confirm once more', 'The window is long closed.', 'wrong'),
    ],
  },
  {
    id: 'bad-backup',
    name: 'A backup that is none',
    situation: 'The original was read out: every byte FF. The customer waits.',
    order: ['refuse', 'entry', 'read-twice', 'compare', 'write'],
    moves: [
      move('refuse', 'Do not call it a backup', 'All FF is what an empty line reads like.'),
      move('entry', 'Bring the unit into its bootloader again', 'It answers.'),
      move('read-twice', 'Read it out twice', 'Two files, full of life.'),
      move('compare', 'Compare the two', 'Equal, byte for byte. Now it is a backup.'),
      move('write', 'Then write', 'There is a way back.'),
      move(
        'go-on',
        'Go on, the supplier has the original',
        'Each of these has an image of its own: without its backup there is no way back.',
        'unsafe',
      ),
      move('rename', 'Save it under a better name', 'A name does not fill it.', 'wrong'),
    ],
  },
]

export interface DrillState {
  drill: FaultDrill
  /** Right moves done. */
  done: string[]
  /** Everything that was chosen, in order, with how it was judged. */
  chosen: { move: string; judged: 'right' | 'too-soon' | 'wrong' | 'unsafe' }[]
}

export const beginDrill = (drill: FaultDrill): DrillState => ({ drill, done: [], chosen: [] })

/** The state after a move. One that is right but not yet due changes nothing but the record. */
export function judgeMove(state: DrillState, id: string): DrillState {
  const found = state.drill.moves.find((each) => each.id === id)
  if (!found || drillOver(state) || state.done.includes(id)) return state
  const due = state.drill.order[state.done.length]
  const judged = found.harm ?? (id === due ? 'right' : 'too-soon')
  return {
    ...state,
    done: judged === 'right' ? [...state.done, id] : state.done,
    chosen: [...state.chosen, { move: id, judged }],
  }
}

export const drillOver = ({ drill, done }: DrillState): boolean => done.length === drill.order.length
