import { useLook } from './look'

const tones: Record<'ask' | 'done' | 'fail', number[]> = {
  ask: [660, 880],
  done: [523, 659, 784],
  fail: [330, 247],
}

let audio: AudioContext | undefined

/** A short sound, and a short shake where the device can, so that eyes can stay on the unit. Muted in the band. */
export function cue(what: keyof typeof tones): void {
  if (!useLook().sound) return
  navigator.vibrate?.(what === 'fail' ? [200, 80, 200] : 120)
  try {
    audio ??= new AudioContext()
    tones[what].forEach((hertz, index) => {
      const from = audio!.currentTime + index * 0.16
      const tone = audio!.createOscillator()
      const level = audio!.createGain()
      tone.frequency.value = hertz
      level.gain.setValueAtTime(0.12, from)
      level.gain.exponentialRampToValueAtTime(0.001, from + 0.15)
      tone.connect(level).connect(audio!.destination)
      tone.start(from)
      tone.stop(from + 0.15)
    })
  } catch {
    // No sound device: the screen says the same.
  }
}
