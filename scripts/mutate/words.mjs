import { PluginKind, declareValuePlugin } from '@stryker-mutator/api/plugin'

/** Members whose value is a sentence for a person: what they say is read, not computed with. */
const sentences = new Set([
  'says',
  'because',
  'remedy',
  'why',
  'expected',
  'found',
  'label',
  'message',
  'note',
  'unread',
  'do',
  'means',
  'asks',
])

const isText = (path) => path.isStringLiteral() || path.isTemplateLiteral()

/** True where a text stands within the value of a member that is a sentence. */
function withinSentence(path) {
  for (let at = path; at.parentPath; at = at.parentPath) {
    if (at.isFunction() && !at.isArrowFunctionExpression()) return false
    const parent = at.parentPath
    if (parent.isObjectProperty() && at.key === 'value') {
      const { name, value } = parent.node.key
      if (sentences.has(name ?? value)) return true
    }
  }
  return false
}

/** Names that the program goes by hold no blank: a text with one between letters is read by people. */
function isWording(path) {
  const texts = path.isStringLiteral()
    ? [path.node.value]
    : path.node.quasis.map(({ value }) => value.cooked ?? '')
  return texts.some((text) => /[a-z,;:.] [a-z]|[a-z] \d|^ [a-z]|[a-z] $/i.test(text))
}

/** Leaves the wording of sentences alone; levels, rules, numbers, conditions and every other text are mutated. */
export const strykerPlugins = [
  declareValuePlugin(PluginKind.Ignore, 'sentences', {
    shouldIgnore(path) {
      if (isText(path) && (withinSentence(path) || isWording(path))) return 'the wording of a sentence'
      return undefined
    },
  }),
]
