import { useLook } from '../stores/look'

/** Colours of the light for a chart that cannot read style sheets. */
export function useChartColours() {
  const look = useLook()
  return (name: string): string => {
    // Read anew when the light changes.
    void look.light
    return getComputedStyle(document.documentElement).getPropertyValue(`--${name}`).trim()
  }
}
