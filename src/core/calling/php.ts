import { addressOf, headersOf, type SampleCall } from "./call";

/** A program for PHP 8, with nothing to install. */
export function phpSample(call: SampleCall): string {
  const { way, body } = call;
  const url = addressOf(call);
  const headers = Object.entries(headersOf(call)).map(([name, value]) => `${text(`${name}: ${value}`)}`);
  return `<?php
$context = stream_context_create(['http' => [
    'method' => 'POST',
    'header' => [${headers.join(", ")}],
    'content' => ${text(JSON.stringify(body))},
    'ignore_errors' => true,
]]);
$response = fopen(${text(url)}, 'r', false, $context);
${way === "stream" ? `${read("$response")}` : whole[way]}`;
}

const whole = {
  whole: "echo stream_get_contents($response), PHP_EOL;\n",
  later: `$answer = json_decode(stream_get_contents($response), true);
echo json_encode($answer), PHP_EOL;
if (isset($answer['events'])) {
    $context = stream_context_create(['http' => ['header' => ['accept: text/event-stream']]]);
    $later = fopen($answer['events'], 'r', false, $context);
    ${read("$later").trimEnd().replace(/\n/g, "\n    ")}
}
`,
};

function read(response: string): string {
  return `$event = '';
while (($line = fgets(${response})) !== false) {
    [$name, $value] = explode(': ', rtrim($line), 2) + ['', ''];
    if ($name === 'event') $event = $value;
    if ($name === 'data' && $event === 'text') echo json_decode($value, true)['text'];
    if ($name === 'data' && $event === 'problem') exit(json_decode($value, true)['detail'] . PHP_EOL);
    if (str_starts_with($line, '{')) exit($line . PHP_EOL);
    flush();
}
echo PHP_EOL;
`;
}

/** A text in single quotes, in which nothing is filled in. */
function text(value: string): string {
  return `'${value.replace(/[\\']/g, "\\$&")}'`;
}
