import katex from "katex";
import { convertLatexToMathMl } from "mathlive/ssr";
import { describe, expect, it } from "vitest";

/**
 * What screen readers get of a formula, held against examples of the W3C's "Mathematical Markup Language (MathML)
 * Version 3.0" (from memory, with the section each stands in). Rows that only group are left out, and so are invisible
 * operators: KaTeX writes none.
 */
const EXAMPLES: readonly { section: string; latex: string; mathml: string }[] = [
  {
    section: "2.1.2, the quadratic formula",
    latex: String.raw`x=\frac{-b\pm\sqrt{b^2-4ac}}{2a}`,
    mathml: `<mrow><mi>x</mi><mo>=</mo><mfrac><mrow><mrow><mo>-</mo><mi>b</mi></mrow><mo>±</mo><msqrt><mrow><msup><mi>b</mi><mn>2</mn></msup>
      <mo>-</mo><mrow><mn>4</mn><mo>\u2062</mo><mi>a</mi><mo>\u2062</mo><mi>c</mi></mrow></mrow></msqrt></mrow><mrow><mn>2</mn><mo>\u2062</mo><mi>a</mi></mrow></mfrac></mrow>`,
  },
  {
    section: "3.3.1, a row of x² + 4x + 4 = 0",
    latex: "x^2+4x+4=0",
    mathml: `<mrow><mrow><msup><mi>x</mi><mn>2</mn></msup><mo>+</mo><mrow><mn>4</mn><mo>\u2062</mo><mi>x</mi></mrow><mo>+</mo><mn>4</mn></mrow><mo>=</mo><mn>0</mn></mrow>`,
  },
  {
    section: "3.3.2, a fraction within a fraction",
    latex: String.raw`\frac{1}{x^3+\frac{x}{3}}`,
    mathml: `<mfrac><mn>1</mn><mrow><msup><mi>x</mi><mn>3</mn></msup><mo>+</mo><mfrac><mi>x</mi><mn>3</mn></mfrac></mrow></mfrac>`,
  },
  {
    section: "3.4.3, an integral with limits",
    latex: String.raw`\int_0^1 e^x\,dx`,
    mathml: `<mrow><msubsup><mo>∫</mo><mn>0</mn><mn>1</mn></msubsup><mrow><msup><mi>e</mi><mi>x</mi></msup><mo>\u2062</mo><mi>d</mi><mi>x</mi></mrow></mrow>`,
  },
  {
    section: "3.5.1, a matrix",
    latex: String.raw`A=\begin{bmatrix}x&y\\z&w\end{bmatrix}`,
    mathml: `<mrow><mi>A</mi><mo>=</mo><mrow><mo>[</mo><mtable><mtr><mtd><mi>x</mi></mtd><mtd><mi>y</mi></mtd></mtr><mtr><mtd><mi>z</mi></mtd><mtd><mi>w</mi></mtd></mtr></mtable><mo>]</mo></mrow></mrow>`,
  },
];

type Tree = { name: string; parts: (Tree | string)[] };
const ROWS = new Set(["math", "mrow", "mtd", "msqrt"]); // a row within one of these adds nothing

/** The elements with their text, without what only groups, spaces or styles. */
function meaning(markup: string): string {
  const root: Tree = { name: "math", parts: [] };
  const open = [root];
  for (const [token, close, name, empty] of markup.replace(/<annotation.*?<\/annotation>/g, "").matchAll(/<(\/?)(\w+)[^>]*?(\/?)>|[^<]+/g)) {
    const inside = open.at(-1) ?? root;
    if (name === undefined) inside.parts.push(...[token.trim()].filter(Boolean));
    else if (close) open.pop();
    else {
      const one = { name, parts: [] };
      inside.parts.push(one);
      if (!empty) open.push(one);
    }
  }
  return told(root);
}

function told({ name, parts }: Tree): string {
  const said = parts.map((one) => (typeof one === "string" ? plain(one) : within(one, name))).join("");
  return `${name}(${said})`;
}

function within(part: Tree, parent: string): string {
  if (part.name === "mspace" || part.name === "mtext") return "";
  const styled = ["mstyle", "semantics", "span", "math"].includes(part.name);
  const grouped = part.name === "mrow" && (ROWS.has(parent) || part.parts.length === 1);
  if (styled || grouped) return part.parts.map((one) => (typeof one === "string" ? plain(one) : within(one, styled ? parent : ROWS.has(parent) ? "mrow" : parent))).join("");
  const text = told(part);
  return text === "mo()" ? "" : text;
}

function plain(text: string): string {
  return text.replace(/&#(\d+);/g, (_, code: string) => String.fromCodePoint(Number(code))).replace("−", "-").replace(/\u2062|\s/g, "");
}

describe("a formula for the ear", () => {
  it.each(EXAMPLES)("KaTeX says it as the W3C does: $section", ({ latex, mathml }) => {
    expect(meaning(katex.renderToString(latex, { output: "mathml" }))).toBe(meaning(mathml));
  });

  it.each(EXAMPLES)("MathLive says it as the W3C does: $section", ({ latex, mathml }) => {
    expect(meaning(convertLatexToMathMl(latex))).toBe(meaning(mathml));
  });

  it("tells one formula from another", () => {
    expect(meaning("<mfrac><mn>1</mn><mi>x</mi></mfrac>")).not.toBe(meaning("<mfrac><mi>x</mi><mn>1</mn></mfrac>"));
    expect(meaning("<msup><mi>x</mi><mrow><mn>2</mn><mi>n</mi></mrow></msup>")).not.toBe(meaning("<msup><mi>x</mi><mn>2</mn></msup>"));
  });
});
