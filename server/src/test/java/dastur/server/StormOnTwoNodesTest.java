package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.store.Audit;
import dastur.store.Database;
import dastur.store.RecordLog;
import java.nio.file.Path;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** I8, I19: whichever node takes a signal and whichever dies, what was acknowledged is counted once, and a matter has one ticket. */
class StormOnTwoNodesTest {
    private static final int SIGNALS = 8_000;
    private static final int MATTERS = 20;

    @TempDir
    Path folder;

    @Test
    void nothingIsLostOrDoubledAndAMatterHasOneTicket() throws Exception {
        try (StormOnTwoNodes storm = new StormOnTwoNodes(folder)) {
            StormOnTwoNodes.Outcome outcome = storm.run(SIGNALS, MATTERS, 20, 800);
            assertThat(outcome.again()).as("a node died while it was sent").isPositive();
            assertThat(outcome.counted()).isEqualTo(SIGNALS);
            assertThat(outcome.matters()).isEqualTo(MATTERS);
            assertThat(outcome.tickets()).hasSize(MATTERS).allSatisfy(t -> assertThat(t)
                    .matches("I-\\d+"));
            try (Database database = storm.open()) {
                assertThat(new Audit(database, new RecordLog(database, null)).ofMatters())
                        .isEmpty();
            }
        }
    }
}
