// Prints every text of the interface as JSON: one entry for each string, template and run of JSX
// text that a person can read. `./sieve texts` groups them by screen.

import { readdirSync, readFileSync } from "node:fs";
import { join, relative } from "node:path";
import { fileURLToPath } from "node:url";
import ts from "typescript";

const root = fileURLToPath(new URL("src", import.meta.url));
const SPOKEN = /^(aria-label|label|title|placeholder|alt|hint|text|help|name|empty|what|why|unit|note)$/;
const SILENT = /^(className|class|d|viewBox|type|role|key|id|href|to|fill|stroke|transform|style|rel|as|side|align|accept)$/;
const SHADERS = /#include|#ifdef|texture2D|transformed \+=|^M\$|^rgb\(|^\[role|^input, |^500 12px/;
const STYLES = /(^|\s)-?(flex|grid|block|inline|hidden|absolute|relative|sticky|fixed|truncate|uppercase|italic|underline|(text|bg|p|px|py|pt|pb|pl|pr|m|mx|my|mt|mb|ml|mr|w|h|gap|min|max|rounded|border|font|leading|size|inset|top|left|right|bottom|z|opacity|col|row|grid|items|justify|shrink|grow|overflow|cursor|pointer|select|transition|duration|outline|ring|fill|stroke|object|tracking|whitespace|break|space|divide|hover|focus|data|group|peer|translate|rotate)(-|:)\S*)(\s|$)/;
const LETTERS = /[A-Za-z]{2}/;

function files(folder) {
  return readdirSync(folder, { withFileTypes: true }).flatMap((entry) => {
    const path = join(folder, entry.name);
    if (entry.isDirectory()) return files(path);
    return /\.tsx?$/.test(entry.name) && !/\.test\.|schema\.d/.test(entry.name) ? [path] : [];
  });
}

/** Whether a literal at this place of the code can be read by a person. */
function readable(node, text) {
  if (!LETTERS.test(text)) return false;
  const parent = node.parent;
  if (ts.isImportDeclaration(parent) || ts.isExportDeclaration(parent)) return false;
  if (ts.isLiteralTypeNode(parent) || ts.isExternalModuleReference(parent)) return false;
  if (ts.isElementAccessExpression(parent) || ts.isCaseClause(parent)) return false;
  if (ts.isPropertyAssignment(parent) && parent.name === node) return false;
  if (ts.isBinaryExpression(parent) && /[=!]==?/.test(parent.operatorToken.getText())) return false;
  for (let up = node; up && !ts.isStatement(up); up = up.parent) {
    if (ts.isJsxAttribute(up)) {
      const name = up.name.getText();
      if (SPOKEN.test(name)) return true;
      if (SILENT.test(name)) return false;
    }
    if (ts.isCallExpression(up) && /^(cn|clsx|twMerge)$/.test(up.expression.getText())) return false;
    if (ts.isTypeNode(up)) return false;
  }
  if (ts.isPropertyAssignment(parent) && SPOKEN.test(parent.name.getText())) return true;
  if (STYLES.test(text) || SHADERS.test(text) || /^aria-\w+:/.test(text)) return false;
  return /\s/.test(text.trim()) || /^[A-Z][a-z]/.test(text);
}

const holdsElement = (node) =>
  ts.isJsxElement(node) || ts.isJsxSelfClosingElement(node) || ts.isJsxFragment(node) ||
  Boolean(ts.forEachChild(node, (child) => holdsElement(child) || undefined));

/** The runs of text and simple expressions among the children of an element. */
function runs(children) {
  const found = [];
  let run = [];
  for (const child of [...children, null]) {
    const simple = child && (ts.isJsxText(child) || (ts.isJsxExpression(child) && child.expression && !holdsElement(child)));
    if (simple) run.push(child);
    else {
      if (run.some((part) => ts.isJsxText(part) && LETTERS.test(part.text))) found.push(run);
      run = [];
    }
  }
  return found;
}

const entries = [];
for (const file of files(root).sort()) {
  const code = readFileSync(file, "utf8");
  const kind = file.endsWith("x") ? ts.ScriptKind.TSX : ts.ScriptKind.TS;
  const source = ts.createSourceFile(file, code, ts.ScriptTarget.Latest, true, kind);
  const add = (start, end, form, text) =>
    entries.push({ file: `web/src/${relative(root, file)}`, line: source.getLineAndCharacterOfPosition(start).line + 1, start, end, form, text: text.replace(/\s+/g, " ") });
  const visit = (node) => {
    const inRun = new Set();
    if (ts.isJsxElement(node) || ts.isJsxFragment(node)) {
      for (const run of runs(node.children)) {
        const raw = code.slice(run[0].pos, run.at(-1).end);
        const lead = raw.length - raw.trimStart().length;
        const start = run[0].pos + lead;
        add(start, start + raw.trim().length, "jsx", raw.trim());
        for (const part of run) inRun.add(part);
      }
    }
    if (ts.isStringLiteral(node) || ts.isNoSubstitutionTemplateLiteral(node)) {
      if (readable(node, node.text)) add(node.getStart(), node.end, "string", node.text);
    } else if (ts.isTemplateExpression(node)) {
      const raw = code.slice(node.getStart() + 1, node.end - 1);
      const bare = raw.replace(/\$\{[^}]*\}/g, "x");
      if (readable(node, bare) && /[A-Za-z]{2,} |^[A-Z]| [a-z]{2,}/.test(bare)) {
        add(node.getStart(), node.end, "template", raw);
        return;
      }
    }
    ts.forEachChild(node, (child) => {
      if (!inRun.has(child)) visit(child);
    });
  };
  visit(source);
}
process.stdout.write(JSON.stringify(entries));
