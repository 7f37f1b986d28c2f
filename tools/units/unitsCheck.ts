import ts from '@typescript/typescript6'

/**
 * Finds where units of measure are mixed: a sum of ticks that is given where milliseconds are asked for, a position in
 * milliseconds compared with one in seconds.
 *
 * The compiler keeps `Ticks` and `Milliseconds` apart (src/core/time/units.ts), but forgets them as soon as there is
 * arithmetic: the sum of two numbers is a number. This pass uses the compiler's own types and carries the unit on through
 * sums, rounding, choices and constants. A unit comes from a type (`Ticks`) or from the end of a name (`startTicks`, `endMs`).
 * What is multiplied or divided by anything but a plain number has no known unit, and what has none may be given anywhere.
 */
export interface UnitFault {
  readonly fileName: string
  /** From 1. */
  readonly line: number
  readonly text: string
}

const unitOfSuffix: Readonly<Record<string, string>> = {
  Ticks: 'ticks',
  Ms: 'milliseconds',
  Seconds: 'seconds',
  Bpm: 'bpm',
  Quarters: 'quarters',
  Px: 'pixels',
  Cents: 'cents',
}

/** Functions whose result is of the same unit as what they are given. */
const keepingUnit = new Set(['abs', 'ceil', 'floor', 'max', 'min', 'round', 'trunc'])

/** Multiplying by these is how one unit becomes another (seconds to milliseconds, hours to milliseconds). */
const isConversion = (factor: number) => factor !== 0 && factor % 1000 === 0

const additive = new Set([ts.SyntaxKind.PlusToken, ts.SyntaxKind.MinusToken])
const comparing = new Set([
  ts.SyntaxKind.LessThanToken,
  ts.SyntaxKind.LessThanEqualsToken,
  ts.SyntaxKind.GreaterThanToken,
  ts.SyntaxKind.GreaterThanEqualsToken,
  ts.SyntaxKind.EqualsEqualsEqualsToken,
  ts.SyntaxKind.ExclamationEqualsEqualsToken,
])
const assigning = new Set([
  ts.SyntaxKind.EqualsToken,
  ts.SyntaxKind.PlusEqualsToken,
  ts.SyntaxKind.MinusEqualsToken,
])
const choosing = new Set([ts.SyntaxKind.QuestionQuestionToken, ts.SyntaxKind.BarBarToken])

export function findUnitFaults(program: ts.Program, isOurs: (fileName: string) => boolean): UnitFault[] {
  const faults: UnitFault[] = []
  const checker = program.getTypeChecker()
  const units = new Units(checker)
  for (const source of program.getSourceFiles()) {
    if (source.isDeclarationFile || !isOurs(source.fileName)) continue
    const told = (node: ts.Node, text: string) => {
      const { line } = source.getLineAndCharacterOfPosition(node.getStart(source))
      faults.push({ fileName: source.fileName, line: line + 1, text })
    }
    const visit = (node: ts.Node) => {
      for (const { given, asked, place } of meetings(node, units, checker))
        if (given && asked && given !== asked) told(node, `${given} where ${asked} are asked for: ${place}`)
      ts.forEachChild(node, visit)
    }
    visit(source)
  }
  return faults
}

interface Meeting {
  readonly given: string | null
  readonly asked: string | null
  readonly place: string
}

/** Where two units meet in a node. */
function meetings(node: ts.Node, units: Units, checker: ts.TypeChecker): Meeting[] {
  const meet = (expression: ts.Expression, asked: string | null): Meeting[] =>
    asked ? [{ given: units.of(expression), asked, place: short(node) }] : []
  if (ts.isBinaryExpression(node)) {
    const operator = node.operatorToken.kind
    if (
      additive.has(operator) ||
      comparing.has(operator) ||
      assigning.has(operator) ||
      choosing.has(operator)
    )
      return meet(node.right, units.of(node.left))
  }
  if (ts.isConditionalExpression(node)) return meet(node.whenFalse, units.of(node.whenTrue))
  if (
    (ts.isVariableDeclaration(node) || ts.isParameter(node) || ts.isPropertyDeclaration(node)) &&
    node.initializer
  )
    return meet(node.initializer, units.ofDeclared(node))
  if (ts.isPropertyAssignment(node)) return meet(node.initializer, units.ofProperty(node))
  if (ts.isShorthandPropertyAssignment(node))
    return meet(node.name, units.ofType(checker.getContextualType(node.name)))
  if (ts.isReturnStatement(node) && node.expression) return meet(node.expression, units.ofResult(node))
  if (ts.isArrowFunction(node) && !ts.isBlock(node.body)) return meet(node.body, units.ofFunction(node))
  if (ts.isCallExpression(node) || ts.isNewExpression(node)) return argumentMeetings(node, units, checker)
  return []
}

function argumentMeetings(
  node: ts.CallExpression | ts.NewExpression,
  units: Units,
  checker: ts.TypeChecker,
): Meeting[] {
  const given = node.arguments ?? []
  if (ts.isCallExpression(node) && units.keepsUnit(node)) {
    const known = given.map((argument) => units.of(argument)).filter((unit) => unit !== null)
    return known.map((unit) => ({ given: unit, asked: known[0]!, place: short(node) }))
  }
  const givenUnits = given.map((argument) => units.of(argument))
  // What is called is looked up only where a unit is given: that costs most.
  if (givenUnits.every((unit) => unit === null)) return []
  const parameters = checker.getResolvedSignature(node)?.parameters ?? []
  return givenUnits.flatMap((unit, index) => {
    const parameter = parameters[index]?.valueDeclaration
    if (!unit || !parameter || !ts.isParameter(parameter) || parameter.dotDotDotToken) return []
    return [{ given: unit, asked: units.ofDeclared(parameter), place: short(node) }]
  })
}

class Units {
  private readonly open = new Set<ts.Node>()

  constructor(private readonly checker: ts.TypeChecker) {}

  of(expression: ts.Expression): string | null {
    if (isNeverNumber(expression)) return null
    if (
      ts.isParenthesizedExpression(expression) ||
      ts.isNonNullExpression(expression) ||
      ts.isAsExpression(expression) ||
      ts.isSatisfiesExpression(expression)
    )
      return this.of(expression.expression)
    if (ts.isPrefixUnaryExpression(expression)) return this.of(expression.operand)
    if (ts.isConditionalExpression(expression))
      return this.of(expression.whenTrue) ?? this.of(expression.whenFalse)
    if (ts.isBinaryExpression(expression)) return this.ofBinary(expression)
    if (ts.isCallExpression(expression)) return this.ofCall(expression)
    const named = this.ofNamed(expression)
    return named ?? this.ofConstant(expression)
  }

  /** The unit that a type carries, or null. */
  ofType(type: ts.Type | undefined): string | null {
    if (!type) return null
    const parts = type.isUnion() ? type.types : [type]
    for (const part of parts) {
      const unit = part.getProperty('__unit')
      if (!unit) continue
      const unitType = this.checker.getTypeOfSymbol(unit)
      const literals = unitType.isUnion() ? unitType.types : [unitType]
      for (const literal of literals) if (literal.isStringLiteral()) return literal.value
    }
    return null
  }

  /** What a variable, parameter or property is declared to hold. */
  ofDeclared(node: ts.VariableDeclaration | ts.ParameterDeclaration | ts.PropertyDeclaration): string | null {
    const declared = node.type ? this.ofType(this.checker.getTypeFromTypeNode(node.type)) : null
    if (declared) return declared
    const named = ts.isIdentifier(node.name) ? unitOfName(node.name.text) : null
    return named && this.isNumber(node.name) ? named : null
  }

  ofProperty(node: ts.PropertyAssignment): string | null {
    const declared = this.ofType(this.checker.getContextualType(node.initializer))
    if (declared) return declared
    const named = ts.isIdentifier(node.name) ? unitOfName(node.name.text) : null
    return named && this.isNumber(node.initializer) ? named : null
  }

  ofResult(node: ts.ReturnStatement): string | null {
    const owner = ts.findAncestor(node, ts.isFunctionLike)
    return owner ? this.ofFunction(owner) : null
  }

  ofFunction(node: ts.SignatureDeclaration): string | null {
    const declared = node.type ? this.ofType(this.checker.getTypeFromTypeNode(node.type)) : null
    if (declared || node.type === undefined) return declared
    const name = node.name && ts.isIdentifier(node.name) ? node.name.text : null
    return name && node.type.kind === ts.SyntaxKind.NumberKeyword ? unitOfName(name) : null
  }

  keepsUnit(call: ts.CallExpression): boolean {
    const { expression } = call
    return (
      ts.isPropertyAccessExpression(expression) &&
      ts.isIdentifier(expression.expression) &&
      expression.expression.text === 'Math' &&
      keepingUnit.has(expression.name.text)
    )
  }

  private ofBinary(expression: ts.BinaryExpression): string | null {
    const { left, right } = expression
    const operator = expression.operatorToken.kind
    if (additive.has(operator) || choosing.has(operator)) return this.of(left) ?? this.of(right)
    if (operator === ts.SyntaxKind.PercentToken) return this.of(left)
    if (operator === ts.SyntaxKind.AsteriskToken)
      return isPlainFactor(right) ? this.of(left) : isPlainFactor(left) ? this.of(right) : null
    if (operator === ts.SyntaxKind.SlashToken) return isPlainFactor(right) ? this.of(left) : null
    return null
  }

  private ofCall(call: ts.CallExpression): string | null {
    if (this.keepsUnit(call)) {
      for (const argument of call.arguments) {
        const unit = this.of(argument)
        if (unit) return unit
      }
      return null
    }
    return this.ofType(this.checker.getTypeAtLocation(call)) ?? this.ofCalledName(call)
  }

  private ofCalledName({ expression }: ts.CallExpression): string | null {
    const name = ts.isPropertyAccessExpression(expression) ? expression.name : expression
    const isNumeric = ts.isIdentifier(name) && (this.resultFlags(name) & ts.TypeFlags.NumberLike) !== 0
    return isNumeric ? unitOfName(name.text) : null
  }

  private resultFlags(name: ts.Node): ts.TypeFlags {
    const [signature] = this.checker.getTypeAtLocation(name).getCallSignatures()
    return signature ? this.checker.getReturnTypeOfSignature(signature).flags : ts.TypeFlags.Never
  }

  private ofNamed(expression: ts.Expression): string | null {
    const carried = this.ofType(this.checker.getTypeAtLocation(expression))
    if (carried) return carried
    if (!this.isNumber(expression)) return null
    if (ts.isIdentifier(expression)) return unitOfName(expression.text)
    if (ts.isPropertyAccessExpression(expression)) return unitOfName(expression.name.text)
    return null
  }

  /** `const sum = startTicks + lengthTicks` is in ticks, whatever its name. */
  private ofConstant(expression: ts.Expression): string | null {
    if (!ts.isIdentifier(expression)) return null
    const declaration = this.checker.getSymbolAtLocation(expression)?.valueDeclaration
    if (!declaration || !ts.isVariableDeclaration(declaration) || !declaration.initializer) return null
    if (!(ts.getCombinedNodeFlags(declaration) & ts.NodeFlags.Const) || this.open.has(declaration))
      return null
    this.open.add(declaration)
    const unit = this.of(declaration.initializer)
    this.open.delete(declaration)
    return unit
  }

  private isNumber(node: ts.Node): boolean {
    const type = this.checker.getTypeAtLocation(node)
    const parts = type.isUnion() ? type.types : [type]
    return parts.some((part) => (part.flags & ts.TypeFlags.NumberLike) !== 0)
  }
}

function unitOfName(name: string): string | null {
  if (/Per[A-Z]\w*$/.test(name)) return null
  const suffix = /(Ticks|Ms|Seconds|Bpm|Quarters|Px|Cents)$/.exec(name)?.[1]
  if (suffix) return unitOfSuffix[suffix]!
  const whole = name.charAt(0).toUpperCase() + name.slice(1)
  return unitOfSuffix[whole] ?? null
}

/** What is no number by how it is written, so that its type need not be looked up. */
const isNeverNumber = (expression: ts.Expression) =>
  ts.isFunctionLike(expression) ||
  ts.isObjectLiteralExpression(expression) ||
  ts.isArrayLiteralExpression(expression) ||
  ts.isStringLiteralLike(expression) ||
  ts.isTemplateExpression(expression) ||
  ts.isJsxElement(expression) ||
  ts.isJsxSelfClosingElement(expression) ||
  ts.isJsxFragment(expression)

/** A number written out that leaves the unit what it is. */
function isPlainFactor(expression: ts.Expression): boolean {
  const inner = ts.isParenthesizedExpression(expression) ? expression.expression : expression
  return ts.isNumericLiteral(inner) && !isConversion(Number(inner.text))
}

const short = (node: ts.Node) => node.getText().replace(/\s+/g, ' ').slice(0, 90)
