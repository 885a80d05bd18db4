import type { GlobalThemeOverrides } from 'naive-ui'

interface Ink {
  paper: string
  sheet: string
  ink: string
  soft: string
  hair: string
  edge: string
  brass: string
  brassHover: string
  brassInk: string
  stop: string
  go: string
}

const day: Ink = {
  paper: '#f5f2ea',
  sheet: '#fbf9f4',
  ink: '#14262b',
  soft: '#4b5d61',
  hair: '#d3cdbf',
  edge: '#857f70',
  brass: '#8f6312',
  brassHover: '#7a530c',
  brassInk: '#fffaf0',
  stop: '#b3261e',
  go: '#12706a',
}
const night: Ink = {
  paper: '#0f1a1d',
  sheet: '#142226',
  ink: '#e8ece6',
  soft: '#a3b1b0',
  hair: '#2b3d42',
  edge: '#6d8085',
  brass: '#d9a441',
  brassHover: '#e6b65c',
  brassInk: '#1a1204',
  stop: '#f2857b',
  go: '#4fb8ac',
}

/** LOOK as overrides of the component library: quiet surfaces, hairlines, 3 px corners, one accent. */
export const naiveTheme = { day: overrides(day), night: overrides(night) }

function overrides(ink: Ink): GlobalThemeOverrides {
  return {
    common: {
      fontFamily: "'Atkinson Hyperlegible Next Variable', sans-serif",
      fontFamilyMono: "'Atkinson Hyperlegible Mono Variable', monospace",
      fontSize: '15px',
      fontSizeMedium: '15px',
      fontSizeLarge: '18px',
      heightMedium: '44px',
      heightLarge: '52px',
      borderRadius: '3px',
      borderRadiusSmall: '3px',
      primaryColor: ink.brass,
      primaryColorHover: ink.brassHover,
      primaryColorPressed: ink.brassHover,
      primaryColorSuppl: ink.brass,
      errorColor: ink.stop,
      successColor: ink.go,
      bodyColor: ink.paper,
      cardColor: ink.paper,
      popoverColor: ink.sheet,
      modalColor: ink.paper,
      inputColor: ink.sheet,
      textColorBase: ink.ink,
      textColor1: ink.ink,
      textColor2: ink.ink,
      textColor3: ink.soft,
      placeholderColor: ink.soft,
      borderColor: ink.edge,
      dividerColor: ink.hair,
      boxShadow1: 'none',
      boxShadow2: `0 0 0 1px ${ink.hair}`,
      boxShadow3: `0 0 0 1px ${ink.hair}`,
    },
    Button: {
      fontWeight: '650',
      textColorPrimary: ink.brassInk,
      textColorHoverPrimary: ink.brassInk,
      textColorPressedPrimary: ink.brassInk,
      textColorFocusPrimary: ink.brassInk,
      rippleColor: 'transparent',
    },
    DataTable: {
      thColor: ink.paper,
      tdColor: ink.paper,
      tdColorHover: ink.sheet,
      thColorHover: ink.paper,
      tdColorSorting: ink.paper,
      thColorSorting: ink.paper,
      borderColor: ink.hair,
      borderRadius: '0',
      thTextColor: ink.soft,
      thFontWeight: '400',
      thIconColor: ink.soft,
      thIconColorActive: ink.brass,
      thPaddingMedium: '6px 14px 6px 0',
      tdPaddingMedium: '11px 14px 11px 0',
      fontSizeMedium: '15px',
    },
    Table: {
      thColor: ink.paper,
      tdColor: ink.paper,
      borderColor: ink.hair,
      thFontWeight: '650',
      fontSizeMedium: '15px',
      borderRadius: '0',
    },
    Tooltip: { color: ink.ink, textColor: ink.paper, borderRadius: '3px' },
    Checkbox: { textColorDisabled: ink.soft },
    Radio: { textColorDisabled: ink.soft },
    Input: { border: `1px solid ${ink.edge}`, color: ink.sheet, colorFocus: ink.sheet },
    InternalSelection: { border: `1px solid ${ink.edge}`, color: ink.sheet, colorActive: ink.sheet },
  }
}
