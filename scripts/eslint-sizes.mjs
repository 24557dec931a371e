// Rules of size: lines of a function without the functions inside it, lines with them, and fields of a class.

const OWN = 100
const WHOLE = 150
const FIELDS = 15

const linesOf = (node) => node.loc.end.line - node.loc.start.line + 1

/** No function of more than 100 lines of its own, and none of more than 150 with what stands inside it. */
const functionSize = {
  create(context) {
    const open = []
    const enter = () => open.push(0)
    const leave = (node) => {
      const whole = linesOf(node)
      const own = whole - open.pop()
      if (open.length) open[open.length - 1] += whole
      if (own > OWN) context.report({ node, message: `${own} lines in one function; ${OWN} are the most.` })
      else if (whole > WHOLE)
        context.report({ node, message: `${whole} lines with the functions inside; ${WHOLE} are the most.` })
    }
    return {
      'FunctionDeclaration': enter,
      'FunctionExpression': enter,
      'ArrowFunctionExpression': enter,
      'FunctionDeclaration:exit': leave,
      'FunctionExpression:exit': leave,
      'ArrowFunctionExpression:exit': leave,
    }
  },
}

/** No class of more than 15 fields, those that its constructor's parameters make included. */
const classFields = {
  create: (context) => ({
    ClassBody(node) {
      const fields = node.body.filter((m) => m.type === 'PropertyDefinition' && !m.static).length
      const maker = node.body.find((m) => m.kind === 'constructor')
      const made = maker ? maker.value.params.filter((p) => p.type === 'TSParameterProperty').length : 0
      if (fields + made > FIELDS)
        context.report({ node, message: `${fields + made} fields in one class; ${FIELDS} are the most.` })
    },
  }),
}

export default { rules: { 'function-size': functionSize, 'class-fields': classFields } }
