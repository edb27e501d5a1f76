package dastur.demo;

import dastur.connectors.relay.Lines;
import dastur.core.people.PersonId;
import dastur.core.record.Signing;
import dastur.core.workflow.Zone;
import dastur.core.workflow.ZoneKey;
import dastur.relay.Joining;
import dastur.relay.Relay;
import dastur.server.DataFolder;
import dastur.server.auth.Secrets;
import dastur.store.Database;
import dastur.store.Journal;
import dastur.store.Relays;
import java.io.IOException;
import java.nio.file.FileSystems;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.PosixFilePermissions;
import java.time.Duration;
import java.time.InstantSource;
import java.util.Optional;
import java.util.function.Supplier;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * The relay of the Mooring Data Room. It runs in the demo's own process, but knows the application only over the line, as any other
 * does: it joins by a code, and what it needs to sign in to the machines there stands in its own folder.
 */
final class DemoRelay implements AutoCloseable {
    static final Zone ROOM = new Zone(new ZoneKey("mooring-data-room"), "Mooring Data Room");
    private static final Logger LOG = LoggerFactory.getLogger(DemoRelay.class);
    private static final Duration LOOKS_EVERY = Duration.ofMillis(50);
    private static final String NAME = "mdr-relay-1";

    private final Path folder;
    private final Thread thread;
    private volatile @Nullable Relay relay;

    /**
     * Joins where it has not yet, and works once the application listens.
     *
     * @param machines where the machine host is now
     * @param token what it asks for
     * @param reached where the application is reached; empty while it is not yet
     */
    DemoRelay(
            Path folder,
            DataFolder keys,
            Database database,
            String machines,
            String token,
            Supplier<Optional<String>> reached) {
        this.folder = folder;
        thread = Thread.ofVirtual().name("demo-relay").start(() -> {
            try {
                furnish(machines, token);
                String address = await(reached);
                if (!Files.exists(folder.resolve("server.json"))) {
                    join(new Relays(database), keys, address);
                }
                // The demo may listen elsewhere than the last time.
                Joining.move(folder, address);
                Relay working = new Relay(folder, InstantSource.system());
                relay = working;
                working.start();
            } catch (IOException e) {
                LOG.warn("the demo's relay does not work: {}", e.getMessage());
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
            }
        });
    }

    private static String await(Supplier<Optional<String>> reached) throws InterruptedException {
        while (true) {
            Optional<String> address = reached.get();
            if (address.isPresent()) {
                return address.get();
            }
            Thread.sleep(LOOKS_EVERY);
        }
    }

    /** What whoever runs the room has put there. */
    private void furnish(String machines, String token) throws IOException {
        Files.createDirectories(folder.resolve("secrets"));
        Files.createDirectories(folder.resolve("scripts"));
        Files.writeString(folder.resolve("secrets/machine-host"), token + "\n");
        Files.writeString(folder.resolve("allowed.json"), """
                {
                  // What may be done in the Mooring Data Room, whatever is asked for.
                  "zone": "mooring-data-room",
                  "connections": {
                    "machines": {
                      "address": "%s",
                      "secret": "machine-host",
                      "allow": [
                        {"method": "POST", "path": "/machines"},
                        {"method": "GET", "path": "/machines/*"},
                        {"method": "POST", "path": "/machines/*/start"},
                        {"method": "GET", "path": "/jobs/*"},
                        {"method": "DELETE", "path": "/jobs/*"}
                      ],
                      "perMinute": 20
                    }
                  },
                  "scripts": {"room-left": {"arguments": []}}
                }
                """.formatted(machines));
        Path script = folder.resolve("scripts/room-left");
        Files.writeString(script, """
                #!/bin/sh
                # How full the disk is on which new machines are laid out.
                df -P . | awk 'NR == 2 { sub("%", "", $5); print "{\\"percent\\": " $5 "}" }'
                """);
        if (FileSystems.getDefault().supportedFileAttributeViews().contains("posix")) {
            Files.setPosixFilePermissions(script, PosixFilePermissions.fromString("rwxr-xr-x"));
        }
    }

    private void join(Relays relays, DataFolder keys, String address) throws IOException, InterruptedException {
        Journal.By administrator =
                new Journal.By(new PersonId("halvard"), InstantSource.system().instant());
        String code = Secrets.newToken();
        relays.keepCode(administrator, ROOM.key(), code);
        String whole = code + "." + Lines.fingerprint(Signing.publicKey(keys.relaysKey()));
        Joining.join(folder, address, whole, NAME);
        relays.all().stream()
                .filter(r -> r.zone().equals(ROOM.key()) && r.name().equals(NAME))
                .forEach(r -> relays.let(administrator, r.id(), true));
    }

    @Override
    public void close() {
        thread.interrupt();
        try {
            thread.join(Duration.ofSeconds(5));
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
        Relay working = relay;
        if (working != null) {
            working.close();
        }
    }
}
