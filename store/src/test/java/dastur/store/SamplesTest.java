package dastur.store;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.people.PersonId;
import dastur.core.signal.SourceKey;
import java.time.Instant;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;

/** What is kept of what sources sent, by names (I4). */
class SamplesTest {
    private static final Journal.By HALVARD =
            new Journal.By(new PersonId("halvard"), Instant.parse("2026-03-02T10:00:00Z"));
    private static final SourceKey GATES = new SourceKey("gates");

    private final Database database = Stores.empty();
    private final Samples samples = new Samples(database);

    @AfterEach
    void close() {
        database.close();
    }

    @Test
    void oneIsKeptAsItCameInThePlaceOfItsNameAndLetGo() {
        assertThat(samples.keep(HALVARD, GATES, "Frozen", "{}", "{\"a\":1}")).isTrue();
        assertThat(samples.keep(HALVARD, GATES, "Frozen", "{\"h\":\"x\"}", "{\"a\":2}"))
                .isTrue();
        assertThat(samples.of(GATES)).containsExactly(new Samples.Line("Frozen", HALVARD.at(), HALVARD.person()));
        assertThat(samples.find(GATES, "Frozen")).hasValueSatisfying(s -> {
            assertThat(s.headers()).isEqualTo("{\"h\":\"x\"}");
            assertThat(s.raw()).isEqualTo("{\"a\":2}");
        });
        assertThat(samples.of(new SourceKey("boards"))).isEmpty();
        assertThat(samples.find(new SourceKey("boards"), "Frozen")).isEmpty();
        assertThat(samples.forget(HALVARD, new SourceKey("boards"), "Frozen")).isFalse();
        assertThat(samples.forget(HALVARD, GATES, "Frozen")).isTrue();
        assertThat(samples.of(GATES)).isEmpty();
    }

    @Test
    void aSourceHasOnlySoManyAndTheyStandByTheirNames() {
        for (int i = 0; i < Samples.MOST; i++) {
            assertThat(samples.keep(HALVARD, GATES, "s" + (100 - i), "{}", "{}"))
                    .isTrue();
        }
        assertThat(samples.keep(HALVARD, GATES, "one more", "{}", "{}")).isFalse();
        assertThat(samples.keep(HALVARD, new SourceKey("boards"), "one more", "{}", "{}"))
                .isTrue();
        assertThat(samples.of(GATES))
                .hasSize(Samples.MOST)
                .extracting(Samples.Line::name)
                .isSorted();
    }
}
