// Writes src/api/schema.d.ts from src/api/openapi.json. Named masks keep their pattern as a type,
// so that the other map types stay a closed list.
import { writeFileSync } from "node:fs";
import openapi, { astToString } from "openapi-typescript";
import ts from "typescript";

const MASK = ts.factory.createTemplateLiteralType(ts.factory.createTemplateHead("mask_"), [
  ts.factory.createTemplateLiteralTypeSpan(
    ts.factory.createKeywordTypeNode(ts.SyntaxKind.StringKeyword),
    ts.factory.createTemplateTail(""),
  ),
]);
const at = (path) => new URL(path, import.meta.url);
const nodes = await openapi(at("src/api/openapi.json"), {
  transform: (schema) => (schema.pattern?.startsWith("^mask_") ? MASK : undefined),
});
const [path = "src/api/schema.d.ts"] = process.argv.slice(2);
writeFileSync(path, astToString(nodes));
