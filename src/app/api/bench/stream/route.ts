import { boot } from "@/server/boot";
import { route } from "@/server/http/route";
import { benchStream } from "@/server/http/streams";

/** Events that a tab that comes back is caught up with at most; it reloads its views anyway. */
const mostMissed = 20_000;

/** The one stream of a bench tab: the events of all replies, gone on with after `Last-Event-ID`. */
export const { GET, HEAD, POST, PUT, PATCH, DELETE, OPTIONS } = route({
  GET(request) {
    const { events, hub } = boot();
    const last = request.headers.get("last-event-id");
    return benchStream(hub, last === null ? [] : events.afterPosition(Number(last) || 0, mostMissed));
  },
});
