import { boot } from "@/server/boot";
import { route } from "@/server/http/route";
import { benchStream, lastEventId } from "@/server/http/streams";

/** The one stream of a bench tab: the events of all replies, gone on with after `Last-Event-ID`. */
export const { GET, HEAD, POST, PUT, PATCH, DELETE, OPTIONS } = route({
  GET: (request) => benchStream(boot(), lastEventId(request)),
});
