package dastur.server;

import java.io.IOException;
import java.io.InputStream;
import java.io.OutputStream;
import java.io.UncheckedIOException;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.net.ServerSocket;
import java.net.Socket;
import java.util.List;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.function.Supplier;

/** Stands before several nodes: each new connection goes to the next of them that takes it. */
public final class Proxy implements AutoCloseable {
    private final ServerSocket door;
    private final Supplier<List<Integer>> ports;
    private final AtomicInteger next = new AtomicInteger();
    private final Set<Socket> callers = ConcurrentHashMap.newKeySet();
    private volatile boolean cut;

    /** @param ports where nodes should listen */
    public Proxy(Supplier<List<Integer>> ports) {
        this.ports = ports;
        try {
            door = new ServerSocket(0, 200, InetAddress.getLoopbackAddress());
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
        Thread.startVirtualThread(this::take);
    }

    public int port() {
        return door.getLocalPort();
    }

    /** Cuts the line: what goes over it breaks off, and nothing goes over it until it is healed. */
    public void cut() {
        cut = true;
        callers.forEach(Proxy::close);
    }

    public void heal() {
        cut = false;
    }

    private void take() {
        while (!door.isClosed()) {
            try {
                Socket caller = door.accept();
                if (cut) {
                    close(caller);
                    continue;
                }
                callers.add(caller);
                Thread.startVirtualThread(() -> pass(caller));
            } catch (IOException e) {
                // Closed.
            }
        }
    }

    private void pass(Socket caller) {
        try {
            connect(caller);
        } finally {
            callers.remove(caller);
        }
    }

    private void connect(Socket caller) {
        List<Integer> all = ports.get();
        int first = next.getAndIncrement();
        for (int i = 0; i < all.size(); i++) {
            Socket node = new Socket();
            try {
                node.connect(
                        new InetSocketAddress(
                                InetAddress.getLoopbackAddress(), all.get(Math.floorMod(first + i, all.size()))),
                        1_000);
                Thread.startVirtualThread(() -> pump(node, caller));
                pump(caller, node);
                return;
            } catch (IOException e) {
                close(node);
            }
        }
        close(caller);
    }

    private static void pump(Socket from, Socket to) {
        try {
            InputStream in = from.getInputStream();
            OutputStream out = to.getOutputStream();
            in.transferTo(out);
        } catch (IOException e) {
            // One of them is gone, and with it the other.
        } finally {
            close(from);
            close(to);
        }
    }

    private static void close(Socket socket) {
        try {
            socket.close();
        } catch (IOException e) {
            // It is gone.
        }
    }

    @Override
    public void close() {
        try {
            door.close();
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }
}
