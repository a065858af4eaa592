// npm run sentences: every sentence and label that people read, by package and file: to be read through once before a release.
import { readdirSync, readFileSync } from 'node:fs';
import { join, relative } from 'node:path';
import { needPackages, root } from './install.mjs';

needPackages();
const { default: ts } = await import('typescript');

/** What is no sentence: names, keys, code, addresses. */
const isRead = (text) =>
  /[a-z]{2}/i.test(text) &&
  (/[A-Za-z’'),:;%] [A-Za-z0-9('"$]/.test(text) || /^[A-Z][a-z]+\.?$/.test(text)) &&
  !/[{};]|=>|^\.{0,2}\/|^[a-z-]+: |var\(|rgba?\(|\d+px|^(M|m)\d|select |insert |--/.test(text);

function* filesIn(folder) {
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    const at = join(folder, entry.name);
    if (entry.isDirectory() && entry.name !== 'dist') yield* filesIn(at);
    else if (/\.tsx?$/.test(entry.name)) yield at;
  }
}

for (const name of readdirSync(join(root, 'packages')).filter((p) => !['e2e', 'contract'].includes(p))) {
  for (const file of filesIn(join(root, 'packages', name, 'src'))) {
    const text = readFileSync(file, 'utf8');
    const found = new Map();
    const add = (start, value) => {
      const said = value.replace(/\s+/g, ' ').trim();
      if (isRead(said)) found.set(start, said);
    };
    const visit = (node) => {
      if (ts.isImportDeclaration(node)) return;
      if (ts.isStringLiteral(node) || ts.isNoSubstitutionTemplateLiteral(node) || ts.isJsxText(node))
        add(node.getStart(), node.text);
      else if (ts.isTemplateExpression(node))
        add(
          node.getStart(),
          [node.head, ...node.templateSpans.map((span) => span.literal)].map((part) => part.text).join('…'),
        );
      ts.forEachChild(node, visit);
    };
    visit(ts.createSourceFile(file, text, ts.ScriptTarget.Latest, true));
    if (found.size === 0) continue;
    console.log(`\n# ${relative(root, file)}`);
    for (const [start, said] of [...found].sort((a, b) => a[0] - b[0]))
      console.log(`${String(text.slice(0, start).split('\n').length).padStart(4)}  ${said}`);
  }
}
