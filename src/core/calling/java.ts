import { addressOf, headersOf, type SampleCall } from "./call";

/** A program for Java 17 or later: `java Call.java`. It shows what comes as it is, since Java reads no JSON by itself. */
export function javaSample(call: SampleCall): string {
  const { way, body } = call;
  const url = addressOf(call);
  const headers = Object.entries(headersOf(call))
    .map(([name, value]) => `\n            .header(${literal(name)}, ${literal(value)})`)
    .join("");
  return `import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse.BodyHandlers;

class Call {
    public static void main(String[] args) throws Exception {
        var client = HttpClient.newHttpClient();
        var request = HttpRequest.newBuilder(URI.create(${literal(url)}))${headers}
            .POST(HttpRequest.BodyPublishers.ofString(${literal(JSON.stringify(body))}))
            .build();
${ways[way]}    }
}
`;
}

const ways: Record<SampleCall["way"], string> = {
  whole: `        System.out.println(client.send(request, BodyHandlers.ofString()).body());
`,
  stream: `        client.send(request, BodyHandlers.ofLines()).body().forEach(System.out::println);
`,
  later: `        var answer = client.send(request, BodyHandlers.ofString()).body();
        System.out.println(answer);
        var events = java.util.regex.Pattern.compile("\\"events\\":\\"([^\\"]*)\\"").matcher(answer);
        if (!events.find()) return;
        var later = HttpRequest.newBuilder(URI.create(events.group(1))).header("accept", "text/event-stream").build();
        client.send(later, BodyHandlers.ofLines()).body().forEach(System.out::println);
`,
};

/** A text in ASCII alone, since what a source file is written in is up to the machine. */
function literal(text: string): string {
  return JSON.stringify(text).replace(
    /[^\x20-\x7e]/g,
    (unit) => `\\u${unit.charCodeAt(0).toString(16).padStart(4, "0")}`,
  );
}
