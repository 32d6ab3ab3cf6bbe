// biome-ignore-all lint/suspicious/noTemplateCurlyInString: what looks like one stands in a program that is shown
/** The languages in which a program can be given. */
export const languages = ["python", "javascript", "bash"] as const;
export type CodeLanguage = (typeof languages)[number];

/** A small program in each language, with what its example prints. */
export interface Program {
  called: RegExp;
  does: string;
  code: Record<CodeLanguage, string>;
  prints: string;
  /** Why it is done in this way. */
  why: string;
}

export const programs: readonly Program[] = [
  {
    called: /\brevers/i,
    does: "turns a text round",
    code: {
      python: 'def reverse(text):\n    return text[::-1]\n\nprint(reverse("tide"))',
      javascript:
        'function reverse(text) {\n  return [...text].reverse().join("");\n}\n\nconsole.log(reverse("tide"));',
      bash: 'reverse() {\n  rev <<< "$1"\n}\n\nreverse "tide"',
    },
    prints: "edit",
    why: "The text is taken letter by letter from its end, so that nothing has to be counted by hand.",
  },
  {
    called: /\bprimes?\b/i,
    does: "tells whether a number is prime",
    code: {
      python:
        "def is_prime(n):\n    if n < 2:\n        return False\n    return all(n % d for d in range(2, int(n ** 0.5) + 1))\n\nprint([n for n in range(20) if is_prime(n)])",
      javascript:
        "function isPrime(n) {\n  if (n < 2) return false;\n  for (let d = 2; d * d <= n; d++) if (n % d === 0) return false;\n  return true;\n}\n\nconsole.log([...Array(20).keys()].filter(isPrime));",
      bash: 'is_prime() {\n  (( $1 > 1 )) || return 1\n  for (( d = 2; d * d <= $1; d++ )); do (( $1 % d )) || return 1; done\n}\n\nfor n in {0..19}; do is_prime $n && echo -n "$n "; done',
    },
    prints: "2, 3, 5, 7, 11, 13, 17, 19",
    why: "A divisor above the square root would have a partner below it, so looking further is of no use.",
  },
  {
    called: /\bfactorial\b/i,
    does: "gives the factorial of a number",
    code: {
      python: "def factorial(n):\n    return 1 if n < 2 else n * factorial(n - 1)\n\nprint(factorial(5))",
      javascript:
        "function factorial(n) {\n  return n < 2 ? 1 : n * factorial(n - 1);\n}\n\nconsole.log(factorial(5));",
      bash: "factorial() {\n  if (( $1 < 2 )); then echo 1; else echo $(( $1 * $(factorial $(( $1 - 1 ))) )); fi\n}\n\nfactorial 5",
    },
    prints: "120",
    why: "The factorial of a number is that number times the factorial of the one before it, so the function may call itself.",
  },
  {
    called: /\bfibonacci\b/i,
    does: "gives the first numbers of the Fibonacci sequence",
    code: {
      python:
        "def fibonacci(count):\n    a, b = 0, 1\n    for _ in range(count):\n        yield a\n        a, b = b, a + b\n\nprint(list(fibonacci(8)))",
      javascript:
        "function* fibonacci(count) {\n  let [a, b] = [0, 1];\n  while (count-- > 0) {\n    yield a;\n    [a, b] = [b, a + b];\n  }\n}\n\nconsole.log([...fibonacci(8)]);",
      bash: 'a=0; b=1\nfor _ in {1..8}; do\n  echo -n "$a "\n  next=$(( a + b )); a=$b; b=$next\ndone',
    },
    prints: "0, 1, 1, 2, 3, 5, 8, 13",
    why: "Only the last two numbers are needed for the next one, so no list has to be kept.",
  },
  {
    called: /\b(?:sort|order)/i,
    does: "sorts numbers from small to large",
    code: {
      python: "numbers = [17, 3, 9, 40]\nprint(sorted(numbers))",
      javascript: "const numbers = [17, 3, 9, 40];\nconsole.log(numbers.toSorted((a, b) => a - b));",
      bash: "printf '%s\\n' 17 3 9 40 | sort -n | tr '\\n' ' '",
    },
    prints: "3, 9, 17, 40",
    why: "The order that comes with the language is quick and well tried; writing one's own is for learning.",
  },
  {
    called: /\b(?:words?|count|frequency)\b/i,
    does: "counts the words of a text",
    code: {
      python:
        'from collections import Counter\n\ndef count(text):\n    return Counter(text.lower().split())\n\nprint(count("tide and tide and quay"))',
      javascript:
        'function count(text) {\n  const counts = {};\n  for (const word of text.toLowerCase().split(/\\s+/)) counts[word] = (counts[word] ?? 0) + 1;\n  return counts;\n}\n\nconsole.log(count("tide and tide and quay"));',
      bash: "count() {\n  tr ' ' '\\n' <<< \"${1,,}\" | sort | uniq -c | sort -rn\n}\n\ncount \"tide and tide and quay\"",
    },
    prints: "tide 2, and 2, quay 1",
    why: "Each word is a key, so that the text is gone through only once.",
  },
  {
    called: /\b(?:hello|greet)/i,
    does: "says hello",
    code: {
      python: 'def hello(name="world"):\n    return f"Hello, {name}"\n\nprint(hello("Wren"))',
      javascript: 'function hello(name = "world") {\n  return `Hello, ${name}`;\n}\n\nconsole.log(hello("Wren"));',
      bash: 'hello() {\n  echo "Hello, ${1:-world}"\n}\n\nhello Wren',
    },
    prints: "Hello, Wren",
    why: "A value that is usual stands as the default, so that the shortest call works too.",
  },
  {
    called: /\b(?:read|parse|load)\b.*\b(?:json|file|csv)\b|\bjson\b/i,
    does: "reads a JSON file and says how many entries it has",
    code: {
      python:
        'import json\n\nwith open("sailings.json") as file:\n    entries = json.load(file)\n\nprint(len(entries))',
      javascript:
        'import { readFile } from "node:fs/promises";\n\nconst entries = JSON.parse(await readFile("sailings.json", "utf8"));\n\nconsole.log(entries.length);',
      bash: "jq length sailings.json",
    },
    prints: "the number of entries",
    why: "The file is read as a whole, which is right for one that fits into memory.",
  },
  {
    called: /\b(?:even|odd|loop|numbers)\b/i,
    does: "goes through the numbers from one to ten and keeps the even ones",
    code: {
      python: "print([n for n in range(1, 11) if n % 2 == 0])",
      javascript: "console.log(Array.from({ length: 10 }, (_, at) => at + 1).filter((n) => n % 2 === 0));",
      bash: 'for n in {1..10}; do (( n % 2 )) || echo -n "$n "; done',
    },
    prints: "2, 4, 6, 8, 10",
    why: "What is left after dividing by two tells even from odd.",
  },
];
