package dastur.connectors.relay;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dastur.core.json.Json;
import dastur.core.record.Signing;
import dastur.core.run.Event;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.workflow.Action;
import dastur.core.workflow.ZoneKey;
import java.security.KeyPair;
import java.security.KeyPairGenerator;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** Work and results bind who says them, for whom they are, and when (M13, M15). */
class SignedWorkTest {
    private static final Instant NOW = Instant.parse("2026-05-04T08:00:00Z");
    private static final ZoneKey ZONE = new ZoneKey("mooring-data-room");
    private static KeyPair server;
    private static KeyPair other;

    private final Work work = new Work(
            "w-1",
            ZONE,
            "r-1",
            "machines",
            new Event.Call(
                    "c", "POST", "/machines", Map.of("Accept", "x"), "{\"a\":1}", null, List.of(), List.of(), 10),
            Action.Repeat.NEVER,
            NOW);

    @BeforeAll
    static void keys() throws Exception {
        server = KeyPairGenerator.getInstance("Ed25519").generateKeyPair();
        other = KeyPairGenerator.getInstance("Ed25519").generateKeyPair();
    }

    @Test
    void workIsWhatTheServerSaid() throws Exception {
        SignedText said = work.signed(server);
        assertThat(Work.open(said, Signing.publicKey(server))).isEqualTo(work);
        SignedText altered = new SignedText(said.text().replace("/machines", "/everything"), said.signature());
        assertThatThrownBy(() -> Work.open(altered, Signing.publicKey(server))).isInstanceOf(Work.Unfit.class);
        assertThatThrownBy(() -> Work.open(work.signed(other), Signing.publicKey(server)))
                .isInstanceOf(Work.Unfit.class);
        assertThatThrownBy(() -> Work.open(SignedText.of("{}x", server), Signing.publicKey(server)))
                .isInstanceOf(Work.Unfit.class)
                .hasMessageContaining("cannot be read");
    }

    @Test
    void itIsForOneRelayOfOneZoneAndForTwoMinutes() {
        assertThat(work.unfitFor(ZONE, "r-1", NOW)).isEmpty();
        assertThat(work.unfitFor(ZONE, "r-1", NOW.plusSeconds(120))).isEmpty();
        assertThat(work.unfitFor(ZONE, "r-1", NOW.plusSeconds(121))).isPresent();
        assertThat(work.unfitFor(ZONE, "r-1", NOW.minusSeconds(121))).isPresent();
        assertThat(work.unfitFor(ZONE, "r-2", NOW)).isPresent();
        assertThat(work.unfitFor(new ZoneKey("upland-data-room"), "r-1", NOW)).isPresent();
    }

    @Test
    void resultsComeBackAsTheyWere() {
        for (CallOutcome outcome : List.of(
                new CallOutcome.Done("ok", Map.of("n", Json.plain(Json.tree(7))), "ref", "https://x", "log", 12, 3),
                new CallOutcome.Failed("no"),
                new CallOutcome.Unknown("who knows"),
                new CallOutcome.Fault("ours", true),
                new CallOutcome.Fault("ours", false))) {
            SignedText said = WorkDone.of("w-1", "r-1", outcome, 12, null, NOW).signed(other);
            WorkDone back = WorkDone.open(said, "r-1", Signing.publicKey(other)).orElseThrow();
            assertThat(back.outcome()).isEqualTo(outcome);
        }
    }

    @Test
    void aResultIsTheRelaysOwnWord() {
        SignedText said = WorkDone.of("w-1", "r-1", new CallOutcome.Failed("no"), 1, null, NOW)
                .signed(other);
        assertThat(WorkDone.open(said, "r-2", Signing.publicKey(other))).isEmpty();
        assertThat(WorkDone.open(said, "r-1", Signing.publicKey(server))).isEmpty();
        assertThat(WorkDone.open(SignedText.of("nothing", other), "r-1", Signing.publicKey(other)))
                .isEmpty();
    }

    @Test
    void joiningProvesBothKeys() {
        Lines.Join join = Lines.Join.of("code", "host-7", other);
        assertThat(join.proved()).isTrue();
        assertThat(new Lines.Join("code", "host-8", join.key(), join.proof(), 1).proved())
                .isFalse();
        assertThat(new Lines.Join("code", "host-7", Signing.publicKey(server), join.proof(), 1).proved())
                .isFalse();
        Lines.Joined joined = Lines.Joined.of("r-1", ZONE, join.key(), server);
        String fingerprint = Lines.fingerprint(Signing.publicKey(server));
        assertThat(joined.proved(fingerprint, join.key())).isTrue();
        assertThat(joined.proved(Lines.fingerprint(join.key()), join.key())).isFalse();
        assertThat(joined.proved(fingerprint, Signing.publicKey(server))).isFalse();
    }
}
