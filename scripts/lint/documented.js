/*
 * A reader of core knows what a thing is without reading its body: what a file gives to others says so in a comment of its
 * own. A type that only names the members of a list beside it needs none.
 */

const named = new Set(['FunctionDeclaration', 'ClassDeclaration', 'TSInterfaceDeclaration'])

/** `(typeof kinds)[number]`, `keyof typeof forms`, `Pin['role']`: a name for what is written elsewhere. */
const isOnlyAName = ({ type, typeAnnotation }) =>
  type === 'TSTypeAliasDeclaration' &&
  (typeAnnotation.type === 'TSIndexedAccessType' ||
    typeAnnotation.type === 'TSTypeOperator' ||
    typeAnnotation.type === 'TSTypeReference')

export const documented = {
  meta: {
    type: 'suggestion',
    schema: [],
    messages: { missing: 'Say in a comment what {{name}} is: shapes, units, errors, source.' },
  },
  create(context) {
    return {
      ExportNamedDeclaration(node) {
        const { declaration } = node
        if (!declaration) return
        const isConst = declaration.type === 'VariableDeclaration'
        if (!isConst && !named.has(declaration.type) && declaration.type !== 'TSTypeAliasDeclaration') return
        if (isOnlyAName(declaration)) return
        const before = context.sourceCode.getCommentsBefore(node).at(-1)
        if (before?.type === 'Block' && before.value.startsWith('*')) return
        const name = isConst ? declaration.declarations[0].id.name : declaration.id.name
        context.report({ node, messageId: 'missing', data: { name } })
      },
    }
  },
}
