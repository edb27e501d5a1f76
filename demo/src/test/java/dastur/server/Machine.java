package dastur.server;

import com.sun.net.httpserver.HttpServer;
import java.io.IOException;
import java.net.InetSocketAddress;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.util.concurrent.Executors;
import java.util.concurrent.locks.LockSupport;

/** A machine that launches others, as a process of its own that can stand in another network. */
public final class Machine {
    private Machine() {}

    /** @param arguments where it listens (host, port), a file that tells what it was asked, and one before which it does not answer */
    public static void main(String[] arguments) throws IOException {
        Path asked = Path.of(arguments[2]);
        Path mayAnswer = Path.of(arguments[3]);
        HttpServer http = HttpServer.create(new InetSocketAddress(arguments[0], Integer.parseInt(arguments[1])), 0);
        http.setExecutor(Executors.newVirtualThreadPerTaskExecutor());
        http.createContext("/", exchange -> {
            Files.writeString(asked, "asked\n", StandardOpenOption.CREATE, StandardOpenOption.APPEND);
            while (!Files.exists(mayAnswer)) {
                LockSupport.parkNanos(20_000_000);
            }
            byte[] answer = "{\"address\":\"10.232.0.20\"}".getBytes(StandardCharsets.UTF_8);
            exchange.sendResponseHeaders(200, answer.length);
            exchange.getResponseBody().write(answer);
            exchange.close();
        });
        http.start();
    }
}
