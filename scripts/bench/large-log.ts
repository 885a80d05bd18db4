const rows = 1_000_000
/** A million rows of twelve channels, as loggers write them; a generator by Knuth's constants (MMIX). */
export function largeLog(): Buffer {
  let state = 1n
  const chance = () => {
    state = (state * 6364136223846793005n + 1442695040888963407n) & 0xffff_ffff_ffff_ffffn
    return Number(state >> 40n) / 2 ** 24
  }
  const pieces: Buffer[] = [
    Buffer.from(
      'Time [s],Speed [rpm],Load [%],Supply [V],Amps [A],T1 [C],T2 [C],Lambda,Torque [Nm],Error [A],Limit [A],Fan\n',
    ),
  ]
  let lines = ''
  for (let row = 0; row < rows; row++) {
    const figures = [
      (row * 0.01).toFixed(2),
      (chance() * 3000).toFixed(1),
      (chance() * 100).toFixed(1),
      (48 + chance() * 4).toFixed(2),
      (chance() * 200 - 20).toFixed(2),
      (chance() * 80).toFixed(1),
      (chance() * 80).toFixed(1),
      (0.7 + chance() * 0.5).toFixed(3),
      (chance() * 90).toFixed(1),
      (chance() * 10 - 5).toFixed(2),
      (chance() * 200).toFixed(0),
      chance() > 0.5 ? '1' : '0',
    ]
    lines += `${figures.join(',')}\n`
    if (row % 2000 === 1999) {
      pieces.push(Buffer.from(lines))
      lines = ''
    }
  }
  pieces.push(Buffer.from(lines))
  return Buffer.concat(pieces)
}
