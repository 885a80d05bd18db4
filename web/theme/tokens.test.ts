import { readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'

const css = readFileSync(new URL('./tokens.css', import.meta.url), 'utf8')
const themes = {
  day: tokensOf(css.slice(css.indexOf(':root'), css.indexOf("[data-light='night']"))),
  night: tokensOf(css.slice(css.indexOf("[data-light='night']"))),
}

function tokensOf(block: string): Record<string, string> {
  return Object.fromEntries(
    [...block.matchAll(/--([a-z-]+): (#[0-9a-f]{6})/g)].map(([, name, colour]) => [name, colour]),
  )
}

/** Source: WCAG 2.2, definitions of relative luminance and contrast ratio. */
function contrast(a: string, b: string): number {
  const luminance = (colour: string) => {
    const [red, green, blue] = [1, 3, 5].map((at) => {
      const share = parseInt(colour.slice(at, at + 2), 16) / 255
      return share <= 0.04045 ? share / 12.92 : ((share + 0.055) / 1.055) ** 2.4
    })
    return 0.2126 * red! + 0.7152 * green! + 0.0722 * blue!
  }
  const [light, dark] = [luminance(a), luminance(b)].sort((x, y) => y - x)
  return (light! + 0.05) / (dark! + 0.05)
}

describe.each(Object.entries(themes))('the %s theme', (_, token) => {
  // Source: WCAG 2.2, 1.4.3: text at least 4.5 to 1.
  it.each(['ink', 'soft', 'go', 'note', 'hold', 'stop', 'brass'])(
    '%s can be read on paper and sheet',
    (name) => {
      expect(contrast(token[name]!, token['paper']!)).toBeGreaterThanOrEqual(4.5)
      expect(contrast(token[name]!, token['sheet']!)).toBeGreaterThanOrEqual(4.5)
    },
  )
  it('the one next thing can be read', () => {
    expect(contrast(token['brass-ink']!, token['brass']!)).toBeGreaterThanOrEqual(4.5)
  })
  // Source: WCAG 2.2, 1.4.11: parts of controls and graphics at least 3 to 1.
  it.each(['edge', 'hull'])('%s stands out from paper', (name) => {
    expect(contrast(token[name]!, token['paper']!)).toBeGreaterThanOrEqual(3)
  })
  it('checks what black on white gives', () => {
    expect(contrast('#000000', '#ffffff')).toBeCloseTo(21, 6)
  })
})
