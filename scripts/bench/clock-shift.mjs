// Loaded ahead of the program by the bench: at SIGUSR2 its wall clock is set hours on, the next time hours back.
const hourMs = 3_600_000
const ahead = [5 * hourMs, -9 * hourMs]
let shift = 0
let times = 0
const now = Date.now.bind(Date)
Date.now = () => now() + shift
process.on('SIGUSR2', () => {
  shift += ahead[times++ % ahead.length]
})
