import { addressOf, headersOf, type SampleBody, type SampleCall } from "./call";

/** A program for Ruby 3, with nothing to install. */
export function rubySample(call: SampleCall): string {
  const { way, body } = call;
  const url = addressOf(call);
  return `require "json"
require "net/http"

uri = URI(${JSON.stringify(url)})
request = Net::HTTP::Post.new(uri, ${hash(headersOf(call))})
request.body = JSON.generate(${hash(body)})
${way === "whole" ? "" : `\n${reader}`}
Net::HTTP.start(uri.host, uri.port, use_ssl: uri.scheme == "https", read_timeout: 300) do |http|
${ways[way]}end
`;
}

const ways: Record<SampleCall["way"], string> = {
  whole: `  response = http.request(request)
  puts response.body
`,
  stream: `  http.request(request) { |response| read(response) }
`,
  later: `  answer = JSON.parse(http.request(request).body)
  puts answer
  if answer["events"]
    later = Net::HTTP::Get.new(URI(answer["events"]), { "accept" => "text/event-stream" })
    http.request(later) { |response| read(response) }
  end
`,
};

const reader = `def read(response)
  abort response.read_body unless response.is_a?(Net::HTTPSuccess)
  rest = +""
  response.read_body do |part|
    rest << part
    while (block = rest.slice!(/\\A.*?\\n\\n/m))
      event = block[/^event: (.*)$/, 1]
      data = block[/^data: (.*)$/, 1]
      print JSON.parse(data)["text"] if event == "text"
      abort JSON.parse(data)["detail"] if event == "problem"
      $stdout.flush
    end
  end
  puts
end
`;

function hash(value: SampleBody): string {
  const members = Object.entries(value).map(
    ([name, member]) => `${literal(name)} => ${typeof member === "string" ? literal(member) : hash(member)}`,
  );
  return `{ ${members.join(", ")} }`;
}

/** A text in double quotes, in which nothing is filled in. */
function literal(text: string): string {
  return JSON.stringify(text).replace(/#/g, "\\#");
}
