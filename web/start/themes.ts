/** Colours and sizes of the kit's parts. */
export { darkTheme } from 'naive-ui'
