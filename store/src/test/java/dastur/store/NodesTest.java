package dastur.store;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assumptions.assumeThat;

import dastur.core.record.Mac;
import dastur.store.Nodes.Duty;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** What only one node does at a time, and never one whose clock is wrong (K8, I10). */
class NodesTest {
    private Database database;
    private Duration ahead = Duration.ZERO;
    private Nodes nodes;

    @BeforeEach
    void open() {
        assumeThat(Stores.onServer()).as("nodes share a server").isTrue();
        database = Stores.empty();
        InstantSource clock = () -> Instant.now().plus(ahead);
        nodes = new Nodes(database, clock);
        nodes.begin(Instant.now());
    }

    @AfterEach
    void close() {
        if (database != null) {
            nodes.end();
            database.close();
        }
    }

    @ParameterizedTest
    @ValueSource(ints = {-31, 31, 86_400})
    void aNodeWhoseClockIsWrongDoesNothingThatOnlyOneMayUntilItIsRight(int seconds) {
        nodes.alive();
        assertThat(nodes.has(Duty.STARTS)).isTrue();
        ahead = Duration.ofSeconds(seconds);
        nodes.alive();
        assertThat(nodes.clockOff().toSeconds()).isBetween(seconds - 2L, seconds + 2L);
        for (Duty duty : Duty.values()) {
            assertThat(nodes.has(duty)).as(duty.name()).isFalse();
        }
        // It is still there, and others see it.
        assertThat(nodes.there()).hasSize(1);
        ahead = Duration.ZERO;
        nodes.alive();
        assertThat(nodes.has(Duty.STARTS)).isTrue();
    }

    @Test
    void aNodeThatBeginsWithAWrongClockLeadsNothingFromTheFirst() {
        nodes.end();
        Nodes late = new Nodes(database, () -> Instant.now().minus(Duration.ofHours(1)));
        late.begin(Instant.now());
        assertThat(late.has(Duty.LOG)).isFalse();
    }

    @ParameterizedTest
    @ValueSource(ints = {-25, 0, 25})
    void aClockThatIsALittleOffIsNoReason(int seconds) {
        ahead = Duration.ofSeconds(seconds);
        nodes.alive();
        assertThat(nodes.has(Duty.STARTS)).isTrue();
    }

    @Test
    void whatOneHasAnotherHasNotUntilItHandsItBack() {
        Database.Server server = PgServer.shared().database();
        try (Database one = Database.onServer(server, Mac.NONE);
                Database other = Database.onServer(server, Mac.NONE)) {
            Nodes first = new Nodes(one);
            Nodes second = new Nodes(other);
            first.begin(Instant.now());
            second.begin(Instant.now());
            assertThat(first.has(Duty.STARTS)).isTrue();
            assertThat(second.has(Duty.STARTS)).isFalse();
            assertThat(second.has(Duty.SIGNALS)).isTrue();
            first.end();
            second.alive();
            assertThat(new Nodes(other).has(Duty.STARTS)).isTrue();
        }
    }
}
