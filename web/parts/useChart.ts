import type { ApexOptions } from 'apexcharts'
import { useLook } from '../stores/look'

/** What every chart of ours shares: colours of the light, which a chart cannot read from style sheets, and no furniture. */
export function useChart() {
  const look = useLook()
  const colour = (name: string): string => {
    // Read anew when the light changes.
    void look.light
    return getComputedStyle(document.documentElement).getPropertyValue(`--${name}`).trim()
  }
  const base = (type: 'line' | 'scatter'): Pick<ApexOptions, 'chart' | 'theme' | 'grid'> => ({
    chart: {
      type,
      animations: { enabled: false },
      toolbar: { show: false },
      zoom: { enabled: false },
      background: 'transparent',
      fontFamily: 'inherit',
      foreColor: colour('soft'),
    },
    theme: { mode: look.light === 'night' ? 'dark' : 'light' },
    grid: { borderColor: colour('hair') },
  })
  return { colour, base }
}
