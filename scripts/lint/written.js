/*
 * Figures and dates are written as the person chose, in one place of the pages: no file there writes a number or a day by
 * the language's own means.
 */

const byItself = /^to(Locale(String|DateString|TimeString)|Fixed|Precision)$/

export const written = {
  meta: {
    type: 'problem',
    schema: [],
    messages: { byItself: 'Take a text of parts/written.ts.' },
  },
  create(context) {
    return {
      MemberExpression(node) {
        const name = node.property.name ?? ''
        if (byItself.test(name) || (node.object.name === 'Intl' && /Format$/.test(name)))
          context.report({ node, messageId: 'byItself' })
      },
    }
  },
}
