import { addressOf, headersOf, type SampleCall } from "./call";

/** A program for Python 3, with nothing to install. */
export function pythonSample(call: SampleCall): string {
  const { way, body } = call;
  const url = addressOf(call);
  // texts in JSON are texts in Python
  return `import json
import urllib.error
import urllib.request

request = urllib.request.Request(
    ${JSON.stringify(url)},
    data=json.dumps(${JSON.stringify(body)}).encode(),
    headers=${JSON.stringify(headersOf(call))},
)

${way === "whole" ? "" : reader}try:
    with urllib.request.urlopen(request) as response:
${way === "stream" ? "        read(response)" : whole[way]}
except urllib.error.HTTPError as error:
    print(error.code, json.load(error)["detail"])
`;
}

const whole = {
  whole: "        print(json.load(response))",
  later: `        answer = json.load(response)
        print(answer)
    later = urllib.request.Request(answer["events"], headers={"accept": "text/event-stream"})
    with urllib.request.urlopen(later) as response:
        read(response)`,
};

const reader = `def read(response):
    event = ""
    for line in response:
        name, _, value = line.decode().rstrip("\\n").partition(": ")
        if name == "event":
            event = value
        if name == "data" and event == "text":
            print(json.loads(value)["text"], end="", flush=True)
        if name == "data" and event == "problem":
            raise SystemExit(json.loads(value)["detail"])
    print()

`;
