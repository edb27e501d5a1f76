package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dastur.store.Database;
import dastur.store.Organisation;
import dastur.store.StoredSecrets;
import java.net.InetAddress;
import java.net.ServerSocket;
import java.nio.file.Path;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** What was begun is ended in reverse, whatever fails. */
class WiringTest {
    @TempDir
    Path data;

    private final List<String> heard = new ArrayList<>();

    private Settings settings(int port) {
        return new Settings(data, "127.0.0.1", port, InstantSource.system(), Settings.USUAL_LEASE, Settings.LOCAL_MAIL);
    }

    /** In earnest, but heard. */
    private class Heard implements Scene {
        private final Earnest earnest = new Earnest();

        @Override
        public void before(Settings settings, DataFolder folder) {
            heard.add("before");
        }

        @Override
        public InstantSource begin(Settings settings, DataFolder folder, Organisation organisation) {
            heard.add("begin");
            return settings.clock();
        }

        @Override
        public void prepare(Database database, Instant now) {
            heard.add("prepare");
        }

        @Override
        public Outside outside(Settings settings, StoredSecrets secrets) {
            return earnest.outside(settings, secrets);
        }

        @Override
        public void running(
                Runnable wake,
                java.util.function.Supplier<Optional<String>> address,
                java.util.function.Supplier<java.util.OptionalInt> syslog) {
            heard.add("running");
        }

        @Override
        public Optional<App.Demo> demo() {
            return Optional.empty();
        }

        @Override
        public void close() {
            heard.add("close");
        }
    }

    @Test
    void itBeginsPartByPartAndEndsEachOnce() {
        try (Wiring wiring = new Wiring(settings(0), new Heard())) {
            assertThat(wiring.port()).isPositive();
            assertThat(heard).containsExactly("before", "begin", "prepare", "running");
        }
        assertThat(heard).endsWith("close").containsOnlyOnce("close");
    }

    @Test
    void whereALaterPartCannotBeginTheEarlierOnesAreEnded() {
        Scene fails = new Heard() {
            @Override
            public void prepare(Database database, Instant now) {
                throw new IllegalStateException("nothing to show");
            }
        };
        assertThatThrownBy(() -> new Wiring(settings(0), fails)).hasMessage("nothing to show");
        assertThat(heard).containsExactly("before", "begin", "close");
        // Nobody holds the database: it can be opened at once.
        new Wiring(settings(0)).close();
    }

    @Test
    void aPortThatIsTakenLeavesNothingOpen() throws Exception {
        try (ServerSocket taken = new ServerSocket(0, 1, InetAddress.getLoopbackAddress())) {
            assertThatThrownBy(() -> new Wiring(settings(taken.getLocalPort()), new Heard()))
                    .isInstanceOf(RuntimeException.class);
        }
        assertThat(heard).endsWith("close");
        new Wiring(settings(0)).close();
    }

    @Test
    void partsAreClosedInReverseAndOneThatFailsKeepsNoneOpen() {
        Parts parts = new Parts();
        parts.add(() -> heard.add("first"));
        parts.add(() -> {
            throw new IllegalStateException("second");
        });
        parts.add(() -> heard.add("third"));
        assertThatThrownBy(parts::close).hasMessage("second");
        assertThat(heard).containsExactly("third", "first");
        parts.close();
        assertThat(heard).hasSize(2);
    }
}
