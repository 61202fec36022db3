// Every single change to a source of the interface that its tests should notice: `node tools/changes.mjs FILE` prints them as JSON.
// Each is { line, before, after, text, begin, end, whole }: text is the whole file with the change, whole the changed expression alone,
// and from begin to end that stands in the file as it is.
import { readFileSync } from "node:fs";
import ts from "typescript";

const K = ts.SyntaxKind;
const SWAPS = new Map([
  [K.LessThanToken, "<="],
  [K.LessThanEqualsToken, "<"],
  [K.GreaterThanToken, ">="],
  [K.GreaterThanEqualsToken, ">"],
  [K.EqualsEqualsEqualsToken, "!=="],
  [K.ExclamationEqualsEqualsToken, "==="],
  [K.PlusToken, "-"],
  [K.MinusToken, "+"],
  [K.AsteriskToken, "/"],
  [K.SlashToken, "*"],
  [K.AmpersandAmpersandToken, "||"],
  [K.BarBarToken, "&&"],
  [K.QuestionQuestionToken, "&&"],
]);

const isText = (node) => ts.isStringLiteral(node) || ts.isTemplateExpression(node);

/** Where a node is written otherwise, and how; null where there is nothing to change about it. */
function otherwise(node, source) {
  if (ts.isBinaryExpression(node) && SWAPS.has(node.operatorToken.kind)) {
    if (node.operatorToken.kind === K.PlusToken && (isText(node.left) || isText(node.right))) return null;
    return [node.operatorToken, SWAPS.get(node.operatorToken.kind)];
  }
  if (ts.isPrefixUnaryExpression(node) && node.operator === K.ExclamationToken)
    return [node, node.operand.getText(source)];
  if (ts.isConditionalExpression(node)) {
    const [a, b, c] = [node.condition, node.whenTrue, node.whenFalse].map((part) => part.getText(source));
    return [node, `${a} ? ${c} : ${b}`];
  }
  if (node.kind === K.TrueKeyword) return [node, "false"];
  if (node.kind === K.FalseKeyword) return [node, "true"];
  if (ts.isNumericLiteral(node)) return [node, String(Number(node.text) + 1)];
  return null;
}

/** Inside of functions alone, and never in types or in what is drawn. */
export function changesOf(text, name = "module.tsx") {
  const source = ts.createSourceFile(name, text, ts.ScriptTarget.Latest, true);
  const found = [];
  const visit = (node, inside) => {
    if (ts.isTypeNode(node) || ts.isImportDeclaration(node) || ts.isJsxAttribute(node)) return;
    // What names a property is no value.
    const isName = ts.isPropertyAssignment(node.parent ?? node) && node.parent?.name === node;
    const other = inside && !isName && otherwise(node, source);
    if (other) {
      const [part, after] = other;
      const [begin, end] = [part.getStart(source), part.getEnd()];
      const line = source.getLineAndCharacterOfPosition(begin).line + 1;
      if (source.getLineAndCharacterOfPosition(end).line + 1 === line)
        found.push({
          line,
          before: node.getText(source).split("\n")[0],
          after,
          text: text.slice(0, begin) + after + text.slice(end),
          begin: node.getStart(source),
          end: node.getEnd(),
          whole: text.slice(node.getStart(source), begin) + after + text.slice(end, node.getEnd()),
        });
    }
    const within = inside || ts.isFunctionLike(node);
    ts.forEachChild(node, (child) => visit(child, within));
  };
  visit(source, false);
  return found;
}

const file = process.argv[2];
if (file) process.stdout.write(JSON.stringify(changesOf(readFileSync(file, "utf8"), file)));
