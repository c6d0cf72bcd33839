// Lists the texts of the screens: src/texts/en.json holds what t(...) is called with, and a
// text of a screen that stands outside of it fails with its place. With --check nothing is
// written.
import { readFileSync, readdirSync, writeFileSync } from "node:fs";
import { join, relative } from "node:path";
import ts from "typescript";

const root = import.meta.dirname;
const list = join(root, "src/texts/en.json");
const shown = new Set(["title", "label", "aria-label", "placeholder", "alt", "says", "hint", "part", "what"]);
// Words behind each other are for reading, except where a program reads them.
const phrase = /^\p{L}{2,}\p{P}?( \p{L}+\p{P}?)+$/u;
const program =
  /^(css|style|className|d|as|border|outline|boxShadow|template|text-?[dD]ecoration|preserveAspectRatio|key|sizes|grid)/;
const worded = (text) => /\p{L}{2,}/u.test(text);

/** told: a literal that a program reads, or that t was given. */
function told(node) {
  for (let p = node.parent; p && !ts.isStatement(p); p = p.parent) {
    if (ts.isCallExpression(p) && ts.isIdentifier(p.expression) && p.expression.text === "t") return true;
    if ((ts.isJsxAttribute(p) || ts.isPropertyAssignment(p)) && program.test(p.name.getText())) return true;
    if (ts.isCallExpression(p) && /\.(closest|matches|querySelector(All)?)$/.test(p.expression.getText())) return true;
    if (ts.isTypeNode(p) || ts.isNewExpression(p)) return true;
    if (ts.isBinaryExpression(p) && /^[!=]==$/.test(p.operatorToken.getText())) return true;
  }
  return false;
}

const texts = new Set();
const outside = [];
for (const entry of readdirSync(join(root, "src"), { recursive: true })) {
  if (!/\.tsx?$/.test(entry) || /^api\/gen|^texts\//.test(entry)) continue;
  const path = join(root, "src", entry);
  const source = ts.createSourceFile(path, readFileSync(path, "utf8"), ts.ScriptTarget.Latest, true);
  const at = (node, why) =>
    outside.push(
      `${relative(root, path)}:${source.getLineAndCharacterOfPosition(node.getStart()).line + 1}: ${why}: ${node.getText()}`,
    );
  const visit = (node) => {
    if (ts.isCallExpression(node) && ts.isIdentifier(node.expression) && node.expression.text === "t") {
      const [text] = node.arguments;
      if (text && ts.isStringLiteralLike(text)) texts.add(text.text);
      else at(node, "a text must stand here as it is");
    }
    if (ts.isJsxText(node) && worded(node.text)) at(node, "a text that is in no catalogue");
    if (ts.isJsxAttribute(node) && shown.has(node.name.getText()) && node.initializer)
      if (ts.isStringLiteral(node.initializer) && worded(node.initializer.text))
        at(node, "a text that is in no catalogue");
    if (ts.isStringLiteral(node) && phrase.test(node.text) && !told(node)) at(node, "a text that is in no catalogue");
    ts.forEachChild(node, visit);
  };
  visit(source);
}
if (outside.length) {
  console.error(outside.join("\n"));
  process.exit(1);
}
const now = JSON.stringify(Object.fromEntries([...texts].sort().map((text) => [text, text])), null, 2) + "\n";
if (!process.argv.includes("--check")) writeFileSync(list, now);
else if (readFileSync(list, "utf8") !== now) {
  console.error("src/texts/en.json is old; run ./neo contract");
  process.exit(1);
}
