package dastur.server;

import java.io.IOException;
import java.net.InetSocketAddress;
import java.net.ServerSocket;
import java.net.Socket;

/** Passes on what comes to one address to another, as a process of its own that can stand in another network. */
public final class Forwarder {
    private Forwarder() {}

    /** @param arguments where it listens (host, port), and to where it passes on (host, port) */
    public static void main(String[] arguments) throws IOException {
        try (ServerSocket door = new ServerSocket()) {
            door.bind(new InetSocketAddress(arguments[0], Integer.parseInt(arguments[1])));
            while (true) {
                Socket caller = door.accept();
                Thread.startVirtualThread(() -> pass(caller, arguments[2], Integer.parseInt(arguments[3])));
            }
        }
    }

    private static void pass(Socket caller, String host, int port) {
        try (caller;
                Socket there = new Socket()) {
            there.connect(new InetSocketAddress(host, port), 2_000);
            Thread back = Thread.startVirtualThread(() -> pump(there, caller));
            pump(caller, there);
            back.join();
        } catch (IOException e) {
            // One of them is gone, and with it the other.
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    private static void pump(Socket from, Socket to) {
        try {
            from.getInputStream().transferTo(to.getOutputStream());
            to.shutdownOutput();
        } catch (IOException e) {
            // Gone.
        }
    }
}
