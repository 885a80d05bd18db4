/** What most screens share: the server's paths, and words of core. */
export { api } from '../stores/api'
