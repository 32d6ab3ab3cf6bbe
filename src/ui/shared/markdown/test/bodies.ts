/**
 * Replies as a careless or hostile model could send them: bodies that try to run or fetch something, or to
 * hang the page, and bodies that are merely large.
 */
export interface Body {
  name: string;
  text: string;
}

const many = (count: number, part: (at: number) => string) =>
  Array.from({ length: count }, (_, at) => part(at)).join("");

/** What would tell the test that something ran, as a script and as an address that is fetched. */
const ran = "window.__ran=1";
const fetched = "http://127.0.0.1:9/fetched";

const scripts: [name: string, text: string][] = [
  ["a script", `<script>${ran}</script>`],
  ["a script in a line", `Hello <script>${ran}</script> there`],
  ["an image that fails", `<img src=x onerror="${ran}">`],
  ["a vector picture that loads", `<svg onload="${ran}"><circle r=9></svg>`],
  ["a frame", `<iframe src="${fetched}"></iframe>`],
  ["a frame with a document of its own", `<iframe srcdoc="<script>parent.__ran=1</script>"></iframe>`],
  ["an object", `<object data="${fetched}"></object>`],
  ["an embedded thing", `<embed src="${fetched}">`],
  ["a style sheet", `<link rel="stylesheet" href="${fetched}">`],
  ["a style that fetches", `<style>body{background:url(${fetched})}</style>`],
  ["an attribute that fetches", `<p style="background:url(${fetched})">x</p>`],
  ["a base address", `<base href="${fetched}">`],
  ["a refresh", `<meta http-equiv="refresh" content="0;url=${fetched}">`],
  ["a form that sends itself", `<form action="${fetched}"><input autofocus onfocus="this.form.submit()"></form>`],
  ["details that open", `<details open ontoggle="${ran}">x</details>`],
  ["a video", `<video src="${fetched}" onerror="${ran}" autoplay></video>`],
  ["a script behind a comment", `<!-- --><script>${ran}</script>`],
  ["a script in a table", `| a | b |\n| - | - |\n| <script>${ran}</script> | <img src=x onerror=${ran}> |`],
  ["a script in a list", `- one\n- <script>${ran}</script>`],
  ["mathematics with a script in it", `<math><mtext><script>${ran}</script></mtext></math>`],
  ["a template", `<template><script>${ran}</script></template>`],
  ["a link that is a script", `[click](javascript:${ran})`],
  ["a link that is a script, with a tab in it", `[click](java\tscript:${ran})`],
  ["a link that is a script, escaped", `[click](&#106;avascript:${ran})`],
  ["a link that is a script, in capitals", `[click](JaVaScRiPt:${ran})`],
  ["a link that is data", `[click](data:text/html,<script>${ran}</script>)`],
  ["a link that is an older script", `[click](vbscript:${ran})`],
  ["a link that is a file", "[click](file:///etc/passwd)"],
  ["an automatic link that is a script", `<javascript:${ran}>`],
  ["a reference that is a script", `[click][a]\n\n[a]: javascript:${ran}`],
  ["a link with a title that closes it", `[click](http://127.0.0.1:9/ "a\\" onmouseover=\\"${ran}")`],
  ["a picture", `![a picture](${fetched}.png)`],
  ["a picture by reference", `![a picture][p]\n\n[p]: ${fetched}.png`],
  ["a picture that is data", `![a picture](data:image/svg+xml,<svg onload="${ran}"/>)`],
  ["a picture that is a script", `![a picture](javascript:${ran})`],
  ["a picture in a link", `[![a picture](${fetched}.png)](${fetched})`],
  ["a picture in a table", `| a |\n| - |\n| ![x](${fetched}.png) |`],
  ["a hundred pictures", many(100, (at) => `![${at}](${fetched}${at}.png)\n\n`)],
  ["a fence named like markup", `\`\`\`"><img src=x onerror=${ran}>\nlet a;\n\`\`\``],
  ["a fence of a language with markup", `\`\`\`html\n<script>${ran}</script>\n\`\`\``],
  ["a footnote named like markup", `x[^<img src=x onerror=${ran}>]\n\n[^a]: <script>${ran}</script>`],
  ["a heading that would take an id", "# constructor\n\n# __proto__\n\n# toString"],
  ["words that objects have", "constructor __proto__ [__proto__](constructor) `toString`"],
  ["direction marks", `\u202e${"nothing here reads backwards ".repeat(5)}\u202c`],
  ["half a surrogate", `a \ud83d b \udc00 c`],
  ["a null character", "a\u0000b\u0001c"],
  ["ten thousand quote marks in a line", `${">".repeat(10_000)} deep`],
  ["a list nested 1,500 deep", many(1_500, (at) => `${"  ".repeat(at)}- item\n`)],
  ["emphasis begun 20,000 times", "*_".repeat(20_000)],
  ["links begun 20,000 times", "[a](".repeat(20_000)],
];

const rows = (count: number) =>
  `| boat | leaves | takes |\n| --- | ---: | :-: |\n${many(count, (at) => `| ${at} | ${at % 24}:40 | ${at % 7} *bicycles* |\n`)}`;
const paragraph = (at: number) =>
  `Paragraph ${at}: the **9:40** from Mill Quay to *Brindle* takes [bicycles](http://127.0.0.1:9/${at}), and \`two\` dogs.\n\n`;

const heavy: [name: string, text: string][] = [
  ["5,000 paragraphs", many(5_000, paragraph)],
  ["20,000 short paragraphs", many(20_000, (at) => `${at}\n\n`)],
  ["one paragraph of 200,000 characters", "the boat leaves at 9:40 ".repeat(8_000)],
  ["one word of a million characters", "x".repeat(1_000_000)],
  ["a line of a million spaces", `a${" ".repeat(1_000_000)}b`],
  ["100,000 empty lines", `a${"\n".repeat(100_000)}b`],
  [
    "3,000 footnotes",
    `${many(3_000, (at) => `note[^${at}] `)}\n\n${many(3_000, (at) => `[^${at}]: what note ${at} says\n`)}`,
  ],
  [
    "a fence of 8,000 lines",
    `\`\`\`ts\n${many(8_000, (at) => `const boat${at} = { leaves: "9:40", takes: ${at} };\n`)}\`\`\``,
  ],
  ["a fence of 8,000 lines that is not closed", `\`\`\`ts\n${many(8_000, (at) => `let a${at};\n`)}`],
  [
    "a fence with one line of 400,000 characters",
    `\`\`\`json\n${JSON.stringify(many(40_000, (at) => `"${at}",`))}\n\`\`\``,
  ],
  ["500 fences", many(500, (at) => `\`\`\`ts\nconst a${at} = () => "${at}";\n\`\`\`\n\n`)],
  ["fences in fences", many(300, (at) => `${"`".repeat(3 + (at % 60))}\n`)],
  ["2,000 fences begun and never closed", "```a\n~~~b\n".repeat(2_000)],
  ["a table of 4,000 rows", rows(4_000)],
  [
    "a table of 200 columns",
    `|${" a |".repeat(200)}\n|${" - |".repeat(200)}\n${`|${" cell |".repeat(200)}\n`.repeat(60)}`,
  ],
  ["a table whose row has 100,000 cells", `| a |\n| - |\n|${" x |".repeat(100_000)}`],
  ["100 tables", many(100, (at) => `${rows(10)}\n\nand ${at}\n\n`)],
  ["a list of 10,000 items", many(10_000, (at) => `- item ${at} of the list\n`)],
  ["a numbered list of 10,000 items", many(10_000, (at) => `${at + 1}. item\n`)],
  ["a loose list of 3,000 items", many(3_000, (at) => `- item ${at}\n\n`)],
  ["a list of 2,000 tasks", many(2_000, (at) => `- [${at % 2 ? "x" : " "}] task ${at}\n`)],
  ["lists of lists", many(300, (at) => `- a ${at}\n  - b\n    - c\n      - d\n`)],
  ["one line that is 1,500 lists", `${"- ".repeat(1_500)}x`],
  ["one line that is 500 numbered lists", `${"1. ".repeat(500)}x`],
  ["quotes and lists in turn, 400 deep", `${"> - ".repeat(400)}x`],
  ["a quote of 5,000 lines", many(5_000, (at) => `> line ${at} of the quote\n`)],
  ["quotes 100 deep over many lines", many(100, (at) => `${">".repeat(at + 1)} level\n`)],
  ["6,000 headings", many(6_000, (at) => `## Heading ${at}\n`)],
  ["5,000 rules", "---\n\n".repeat(5_000)],
  ["50,000 back quotes", "`".repeat(50_000)],
  ["runs of back quotes, each longer", many(300, (at) => `${"`".repeat(at + 1)} `)],
  ["20,000 brackets", "[".repeat(20_000)],
  ["20,000 brackets that close", `${"[".repeat(10_000)}${"]".repeat(10_000)}`],
  ["pictures begun 20,000 times", "![a](".repeat(20_000)],
  ["links in links", `${"[a".repeat(5_000)}${"](b)".repeat(5_000)}`],
  ["10,000 stars", `${"**".repeat(5_000)}a`],
  ["stars that open and close", `${"*a".repeat(5_000)}${"b*".repeat(5_000)}`],
  ["20,000 tildes", "~~".repeat(10_000)],
  ["20,000 smaller-than signs", "<".repeat(20_000)],
  ["20,000 tags begun", "<a ".repeat(20_000)],
  ["comments begun", "<!--".repeat(10_000)],
  ["20,000 ampersands", "&amp;&#x26;&bogus;".repeat(7_000)],
  ["50,000 backslashes", "\\".repeat(50_000)],
  ["addresses without end", "www.".repeat(10_000)],
  ["letters and at signs", "a@".repeat(20_000)],
  ["dotted words before an at sign", `${"a.".repeat(30_000)}@`],
  ["10,000 links", many(10_000, (at) => `[boat ${at}](http://127.0.0.1:9/${at})\n`)],
  ["10,000 addresses", many(10_000, (at) => `http://127.0.0.1:9/${at} `)],
  [
    "3,000 references",
    `${many(3_000, (at) => `[r${at}] `)}\n\n${many(3_000, (at) => `[r${at}]: http://127.0.0.1:9/${at}\n`)}`,
  ],
  [
    "two megabytes of everything",
    many(400, (at) => `# ${at}\n\n${many(20, paragraph)}${rows(20)}\n\`\`\`ts\n${"let a = 1;\n".repeat(40)}\`\`\`\n\n`),
  ],
];

const named = ([name, text]: [string, string]): Body => ({ name, text });

export const hostileBodies: Body[] = scripts.map(named);
export const heavyBodies: Body[] = heavy.map(named);
