import { presetMini } from '@unocss/preset-mini'
import { defineConfig } from '@unocss/vite'

/** Layout in the page's own words: distances in steps of 4 px, colours and sizes of type from theme/tokens.css. */
const tokens = 'paper sheet ink soft hair edge brass brass-ink go note hold stop water hull'.split(' ')

const sizes: Readonly<Record<string, string>> = {
  body: '15px',
  lead: '18px',
  large: '24px',
  title: '34px',
  far: '44px',
}

export default defineConfig({
  presets: [presetMini({ preflight: false, arbitraryVariants: false })],
  theme: {
    colors: Object.fromEntries(tokens.map((token) => [token, `var(--${token})`])),
    borderRadius: { DEFAULT: '3px' },
  },
  rules: [
    // What a kind of element brings with it is taken off before anything is put on.
    ['wide', { width: '100%' }, { layer: 'off' }],
    ['list-none', { 'list-style': 'none' }, { layer: 'off' }],
    ['bare-border', { border: 0 }, { layer: 'off' }],
    ['font-inherit', { font: 'inherit' }, { layer: 'off' }],
    [/^text-(body|lead|large|title|far)$/, ([, name]) => ({ 'font-size': sizes[name ?? ''] })],
    ['small', { 'font-size': '13px' }],
    ['soft', { color: 'var(--soft)' }],
    ['mono', { 'font-family': 'var(--mono)' }],
    // A hairline at one side, or round the whole.
    [
      /^line-([atblr])(?:-(edge|brass|ink))?$/,
      ([, side, colour]) => ({ [sided(side)]: `1px solid var(--${colour ?? 'hair'})` }),
    ],
    // A bar at the left of what is to be seen: danger, a hold, the next thing.
    [
      /^bar-(\w+)$/,
      ([, colour]) => ({
        'border-left': `3px solid ${colour === 'transparent' ? colour : `var(--${colour})`}`,
      }),
    ],
    // The frame of something a hand moves.
    [/^frame-(edge|ink)$/, ([, colour]) => ({ border: `1.5px solid var(--${colour})` })],
    [/^columns-(\d)$/, ([, count]) => ({ columns: count ?? '1' })],
    ['break-inside-avoid', { 'break-inside': 'avoid' }],
    ['touch-none', { 'touch-action': 'none' }],
    ['wrap-anywhere', { 'overflow-wrap': 'anywhere' }],
    // As many columns as fit, each at least so many pixels wide.
    [
      /^(fill|fit)-(\d+)$/,
      ([, how, least]) => ({ 'grid-template-columns': `repeat(auto-${how}, minmax(${least}px, 1fr))` }),
    ],
  ],
  // A name that a drawing of ours has.
  blocklist: ['ring'],
  layers: { off: -10 },
  shortcuts: {
    // A list whose points are drawn by what is in them.
    plain: 'list-none m-0 p-0',
    // A control under its name.
    field: 'grid gap-1 small soft',
    // A fold's line, as high as a glove needs it.
    fold: 'min-h-11 leading-11 cursor-pointer',
  },
  variants: [
    // On a phone, and on a narrow screen.
    (matcher) => narrow(matcher, 'phone:', 700),
    (matcher) => narrow(matcher, 'narrow:', 900),
    (matcher) => narrow(matcher, 'slim:', 1000),
    (matcher) => narrow(matcher, 'mid:', 1080),
  ],
  // They outweigh the kit's own rules for one class, whatever comes first.
  postprocess: (util) => {
    util.selector = `:root ${util.selector}`
  },
})

function sided(side: string | undefined): string {
  const names: Readonly<Record<string, string>> = {
    t: 'border-top',
    b: 'border-bottom',
    l: 'border-left',
    r: 'border-right',
  }
  return names[side ?? ''] ?? 'border'
}

function narrow(matcher: string, prefix: string, most: number) {
  return matcher.startsWith(prefix)
    ? {
        matcher: matcher.slice(prefix.length),
        parent: [`@media (max-width: ${most}px)`, 2000 - most] as [string, number],
      }
    : matcher
}
