package dastur.relay;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dastur.connectors.relay.SignedText;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.time.Instant;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** A relay that is killed begins nothing twice and forgets no result (M15). */
class JournalTest {
    private static final Instant NOW = Instant.parse("2026-05-04T08:00:00Z");

    @TempDir
    Path folder;

    private Path file() {
        return folder.resolve("journal.jsonl");
    }

    @Test
    void whatWasBegunIsKnownAlsoToTheNextProcess() throws IOException {
        try (Journal journal = new Journal(file(), NOW)) {
            assertThat(journal.begin("a", NOW)).isTrue();
            assertThat(journal.begin("a", NOW)).isFalse();
        }
        try (Journal journal = new Journal(file(), NOW)) {
            assertThat(journal.begun()).containsExactly("a");
            assertThat(journal.begin("a", NOW)).isFalse();
        }
    }

    @Test
    void resultsAreToldUntilTheServerHasThem() throws IOException {
        SignedText result = new SignedText("{\"work\":\"a\"}", "s");
        try (Journal journal = new Journal(file(), NOW)) {
            journal.begin("a", NOW);
            journal.done("a", result, NOW);
        }
        try (Journal journal = new Journal(file(), NOW)) {
            assertThat(journal.untold()).containsExactly(result);
            assertThat(journal.begun()).isEmpty();
            journal.told("a", NOW);
            assertThat(journal.untold()).isEmpty();
        }
        try (Journal journal = new Journal(file(), NOW)) {
            assertThat(journal.untold()).isEmpty();
            assertThat(journal.begin("a", NOW)).isFalse();
        }
    }

    /** A kill may cut the last line anywhere; at each place, all before it is known. */
    @Test
    void aLineThatWasCutOffSaysNothing() throws IOException {
        try (Journal journal = new Journal(file(), NOW)) {
            journal.begin("a", NOW);
            journal.begin("b", NOW);
        }
        String whole = Files.readString(file());
        int second = whole.indexOf("}\n") + 2;
        for (int cut = second; cut < whole.length() - 1; cut++) {
            Files.writeString(file(), whole.substring(0, cut));
            try (Journal journal = new Journal(file(), NOW)) {
                assertThat(journal.begun()).as("cut at %d", cut).containsExactly("a");
                assertThat(journal.begin("b", NOW)).isTrue();
            }
        }
    }

    /** A full disk leaves half a line; what is written after it, when there is room again, is not lost with it. */
    @Test
    void halfALineSpoilsNoOther() throws IOException {
        try (Journal journal = new Journal(file(), NOW)) {
            journal.begin("a", NOW);
            Files.writeString(file(), "{\"work\":\"half", StandardOpenOption.APPEND);
            journal.begin("b", NOW);
        }
        try (Journal journal = new Journal(file(), NOW)) {
            assertThat(journal.begun()).containsExactly("a", "b");
        }
    }

    @Test
    void itForgetsAfterThirtyDaysOnlyWhatTheServerHas() throws IOException {
        try (Journal journal = new Journal(file(), NOW)) {
            journal.begin("told", NOW);
            journal.done("told", new SignedText("{}", "s"), NOW);
            journal.told("told", NOW);
            journal.begin("open", NOW);
        }
        Instant later = NOW.plus(Journal.KEPT).plusSeconds(1);
        try (Journal journal = new Journal(file(), later)) {
            assertThat(journal.begin("told", later)).isTrue();
            assertThat(journal.begin("open", later)).isFalse();
        }
    }

    @Test
    void twoProcessesDoNotShareAFolder() throws IOException {
        try (Journal journal = new Journal(file(), NOW)) {
            journal.begin("a", NOW);
            assertThatThrownBy(() -> new Journal(file(), NOW))
                    .isInstanceOf(IOException.class)
                    .hasMessageContaining("Another process");
        }
        assertThat(Files.readString(file())).contains("\"a\"");
        Files.writeString(file(), "nonsense\n", StandardOpenOption.APPEND);
        try (Journal journal = new Journal(file(), NOW)) {
            assertThat(journal.begun()).containsExactly("a");
        }
    }
}
