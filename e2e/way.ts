import { type AddressInfo, connect, createServer, type Socket } from "node:net";

/** A way to the application that can be cut: every connection on it breaks off, and new ones go through. */
export async function openWay(port: number) {
  const sockets = new Set<Socket>();
  const way = createServer((near) => {
    const far = connect(port, "127.0.0.1");
    for (const socket of [near, far]) {
      sockets.add(socket);
      socket.on("error", () => socket.destroy());
      socket.on("close", () => sockets.delete(socket));
    }
    near.pipe(far).pipe(near);
  });
  await new Promise<void>((resolve) => way.listen(0, "127.0.0.1", resolve));
  const cut = () => {
    for (const socket of sockets) socket.destroy();
  };
  return {
    address: `http://127.0.0.1:${(way.address() as AddressInfo).port}`,
    cut,
    close: () => {
      cut();
      return new Promise((resolve) => way.close(resolve));
    },
  };
}
