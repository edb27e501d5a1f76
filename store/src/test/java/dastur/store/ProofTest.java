package dastur.store;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.assertj.core.api.Assumptions.assumeThat;

import dastur.core.people.Person;
import dastur.core.people.Role;
import dastur.core.record.Checkpoint;
import dastur.core.record.Entry;
import dastur.core.record.MerkleTree;
import dastur.core.record.Seal;
import dastur.core.record.Signer;
import dastur.core.ticket.TicketId;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HexFormat;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Stream;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** Somebody writes into the database past the application: each way is found, and it is said where (K11, K14). */
class ProofTest {
    private static final TicketId ONE = new TicketId("I-1");
    private static final TicketId OTHER = new TicketId("I-2");

    @TempDir
    Path folder;

    private Database database;
    private Cases cases;
    private final Signers.Memory signed = new Signers.Memory();
    private final Signer signer = new Signer(Signers.key(), signed);

    @BeforeEach
    void write() {
        open();
        new Organisation(database)
                .putPerson(
                        new Person(KillTarget.ADA, "Ada Brandvold", "ada@kestrel.example", Set.of(Role.AGENT), true),
                        null);
        for (int i = 0; i < 6; i++) {
            KillTarget.write(cases, ONE);
            KillTarget.write(cases, OTHER);
        }
        sign();
        assertThat(problem()).isEmpty();
    }

    @AfterEach
    void close() {
        database.close();
    }

    private void open() {
        database = Stores.in(folder);
        cases = new Cases(database, () -> new byte[32]);
    }

    private RecordLog log() {
        return new RecordLog(database, signer);
    }

    private void sign() {
        log().catchUp();
        log().sign(Instant.now());
    }

    private Optional<Seal.Break> problem() {
        return new Records(database, log()).checked(ONE).problem();
    }

    private void assertBrokenAt(long seq, String words) {
        Seal.Break found = problem().orElseThrow();
        assertThat(found.message()).contains(words);
        assertThat(found.seq()).isEqualTo(seq);
    }

    private void alter(String sql) {
        database.run(s -> assertThat(s.createNativeMutationQuery(sql).executeUpdate())
                .as(sql)
                .isPositive());
    }

    private List<Entry> entries() {
        return database.read(s -> Records.read(s, ONE, 0));
    }

    private long last() {
        return entries().size();
    }

    /** Writes the record anew from an entry on, as whoever knows how it is hashed can, and makes the ticket say the same. */
    private void forge(long from, String before, String after) {
        String previous = from == 1 ? Seal.START : entries().get((int) from - 2).hash();
        for (Entry entry : entries().subList((int) from - 1, entries().size())) {
            String sealed = (entry.seq() == from ? entry.sealed().replace(before, after) : entry.sealed())
                    .replaceFirst("\"previous\":\"[0-9a-f]{64}\"", "\"previous\":\"" + previous + "\"");
            previous = Seal.hash(sealed);
            String hash = previous;
            database.run(s -> s.createNativeMutationQuery(
                            "update entry set sealed = ?1, hash = ?2 where ticket = 'I-1' and seq = ?3")
                    .setParameter(1, sealed)
                    .setParameter(2, hash)
                    .setParameter(3, entry.seq())
                    .executeUpdate());
        }
        alter("update ticket_head set head = '" + previous + "' where ticket = 'I-1'");
    }

    @Test
    void anAlteredEntry() {
        alter("update entry set sealed = replace(sealed, 'ada', 'teo') where ticket = 'I-1' and seq = 3");
        assertBrokenAt(3, "it was altered");
    }

    @Test
    void anEntryTakenOut() {
        alter("delete from entry where ticket = 'I-1' and seq = 3");
        assertBrokenAt(3, "removed");
    }

    @Test
    void contentTakenAwayWithoutAWord() {
        alter("update entry set content = null, salt = null where ticket = 'I-1' and seq = 2");
        assertBrokenAt(2, "no entry says that it was redacted");
    }

    @Test
    void swappedEntries() {
        alter("update entry set seq = 1000 where ticket = 'I-1' and seq = 3");
        alter("update entry set seq = 3 where ticket = 'I-1' and seq = 4");
        alter("update entry set seq = 4 where ticket = 'I-1' and seq = 1000");
        assertBrokenAt(3, "entry 3 is expected here");
    }

    @Test
    void anEndCutOffThatTheTicketDoesNotKnowOf() {
        long last = last();
        alter("delete from entry where ticket = 'I-1' and seq = " + last);
        assertBrokenAt(last, "the end was removed");
    }

    @Test
    void aTicketRolledBackAsIfItNeverHappened() {
        long last = last();
        alter("delete from entry where ticket = 'I-1' and seq > " + (last - 2));
        alter("update ticket_head set seq = " + (last - 2) + ", head = '"
                + entries().getLast().hash() + "' where ticket = 'I-1'");
        assertBrokenAt(last - 1, "the end was removed");
    }

    @Test
    void aRecordWrittenAnewFromAnEntryOn() {
        forge(3, "\"ada\"", "\"teo\"");
        assertBrokenAt(3, "the log holds another entry 3");
    }

    @Test
    void theLogRewrittenWithIt() {
        forge(3, "\"ada\"", "\"teo\"");
        entries()
                .forEach(e -> database.run(s -> s.createNativeMutationQuery(
                                "update log_leaf set hash = ?1 where ticket = 'I-1' and seq = ?2")
                        .setParameter(1, e.hash())
                        .setParameter(2, e.seq())
                        .executeUpdate()));
        assertBrokenAt(3, "does not lead to the signed root");
        growNewTree();
        assertThat(problem().orElseThrow().message()).contains("does not begin with");
        assertThatThrownBy(this::grownAndSigned).isInstanceOf(Signer.NotAnExtension.class);
        assertThat(signed.last().orElseThrow().size()).isEqualTo(12);
    }

    /** As whoever knows how the log is made would: its leaves as they are now, and the tree over them. */
    private void growNewTree() {
        database.run(s -> s.doWork(connection -> {
            Jdbc.update(connection, "delete from log_tile");
            LogTiles tiles = new LogTiles(connection);
            List<RecordLog.Leaf> leaves = Jdbc.query(
                    connection,
                    "select number, ticket, seq, hash from log_leaf order by number",
                    r -> new RecordLog.Leaf(r.getLong(1), r.getString(2), r.getLong(3), r.getString(4)));
            for (RecordLog.Leaf l : leaves) {
                tiles.append(l.number(), MerkleTree.leaf(Checkpoint.leaf(l.ticket(), l.seq(), l.hash())));
            }
            tiles.save();
        }));
    }

    private void grownAndSigned() {
        KillTarget.write(cases, OTHER);
        sign();
    }

    /** Puts one more entry on, that is hashed as it should be. @param at when it says that it was written */
    private String putOn(Instant at) {
        Entry last = entries().getLast();
        String sealed = last.sealed()
                .replace("\"seq\":" + last.seq(), "\"seq\":" + (last.seq() + 1))
                .replaceFirst("\"at\":\"[^\"]*\"", "\"at\":\"" + at + "\"")
                .replaceFirst("\"previous\":\"[0-9a-f]{64}\"", "\"previous\":\"" + last.hash() + "\"");
        String hash = Seal.hash(sealed);
        database.run(s -> s.createNativeMutationQuery(
                        "insert into entry (ticket, seq, at, kind, sealed, hash, content, salt)"
                                + " select ticket, seq + 1, at, kind, ?1, ?2, content, salt from entry"
                                + " where ticket = 'I-1' and seq = ?3")
                .setParameter(1, sealed)
                .setParameter(2, hash)
                .setParameter(3, last.seq())
                .executeUpdate());
        alter("update ticket_head set seq = seq + 1, head = '" + hash + "' where ticket = 'I-1'");
        return hash;
    }

    @Test
    void anEntryPutOnPastTheApplication() {
        putOn(Instant.now());
        assertBrokenAt(last(), "neither in the log nor on its way");
    }

    /** The application itself enters it into the log and signs it; that it is younger than it says shows all the same. */
    @ParameterizedTest
    @ValueSource(strings = {"-PT6M", "-P2D", "PT6M", "P2D"})
    void anEntryPutOnUnderAnotherTime(Duration away) {
        alter("insert into log_pending (ticket, seq, hash) values ('I-1', " + (last() + 1) + ", '"
                + putOn(Instant.now().plus(away)) + "')");
        sign();
        assertBrokenAt(last(), "written under another time");
        assertThat(new Audit(database, log()).run(done -> {}).findings().toString())
                .contains("written under another time");
    }

    /** Nobody signs while nothing runs: what was written shortly before is in the log long after. */
    @Test
    void whatWasWrittenShortlyBeforeItStoodStillIsInTime() {
        KillTarget.write(cases, ONE);
        log().catchUp();
        log().sign(Instant.now().plus(Duration.ofDays(3)));
        assertThat(problem()).isEmpty();
        // And a clock that goes back is none either.
        KillTarget.write(cases, ONE);
        sign();
        assertThat(problem()).isEmpty();
        assertThat(new Audit(database, log()).run(done -> {}).findings()).isEmpty();
    }

    @Test
    void aCheckpointPutAtAnotherTimeOrTakenFromTheBeginning() {
        KillTarget.write(cases, ONE);
        log().catchUp();
        log().sign(Instant.now().plus(Duration.ofMinutes(2)));
        KillTarget.write(cases, ONE);
        log().catchUp();
        log().sign(Instant.now().plus(Duration.ofMinutes(4)));
        Audit audit = new Audit(database, log());
        assertThat(audit.run(done -> {}).findings()).isEmpty();
        alter("update checkpoint set at = at - interval '1' hour where number = 2");
        assertThat(audit.run(done -> {}).findings().toString())
                .contains("checkpoint 2")
                .contains("was altered");
        alter("update checkpoint set at = at + interval '1' hour where number = 2");
        assertThat(audit.run(done -> {}).findings()).isEmpty();
        alter("delete from checkpoint where number = 1");
        assertThat(audit.run(done -> {}).findings().toString()).contains("does not follow the one before");
    }

    @Test
    void aDeletedTicket() {
        Records records = new Records(database, log());
        assertThat(records.deleted(ONE)).isFalse();
        assertThat(records.deleted(new TicketId("I-9999"))).isFalse();
        for (String table : List.of("entry", "case_snapshot")) {
            alter("delete from " + table + " where ticket = 'I-1'");
        }
        alter("delete from ticket_head where ticket = 'I-1'");
        assertThat(records.deleted(ONE)).isTrue();
        assertBrokenAt(1, "the end was removed");
    }

    @Test
    void aTicketThatListsDoNotShowAndOneThatOnlyTheyShow() {
        alter("update ticket set id = 'I-7777' where id = 'I-1'");
        assertThat(new Audit(database, log()).run(done -> {}).findings().toString())
                .contains("ticket is missing")
                .contains("I-7777")
                .contains("it has no record");
        new Rebuilding(database).all(done -> {});
        assertThat(new Audit(database, log()).run(done -> {}).findings().toString())
                .doesNotContain("ticket is missing");
    }

    /** A few at a time: in so many goes all were looked at, and what is wrong with one is found within them. */
    @Test
    void goneThroughInPassingAllAreLookedAt() {
        for (int i = 10; i < 17; i++) {
            KillTarget.write(cases, new TicketId("I-" + i));
        }
        sign();
        Audit audit = new Audit(database, log());
        int goes = 4;
        for (int go = 0; go < 2 * goes + 2; go++) {
            assertThat(audit.inPassing(Instant.now(), goes)).isEmpty();
        }
        alter("update ticket set title = 'Nothing' where id = 'I-15'");
        List<Audit.Finding> found = new ArrayList<>();
        for (int go = 0; go < goes + 1; go++) {
            found.addAll(audit.inPassing(Instant.now(), goes));
        }
        assertThat(found).isNotEmpty().allSatisfy(f -> assertThat(f.where()).isEqualTo("I-15"));
    }

    /** Whoever is told of what is not so believes nothing the second time: work that goes on is no forgery. */
    @Test
    void whileOthersWriteNothingIsFoundThatIsNotSo() throws InterruptedException {
        List<Thread> writers = Stream.<Runnable>of(
                        () -> KillTarget.write(cases, ONE), () -> KillTarget.write(cases, OTHER), this::sign)
                .map(work -> Thread.ofPlatform().start(() -> {
                    for (int i = 0; i < 60; i++) {
                        work.run();
                    }
                }))
                .toList();
        List<Audit.Finding> found = new ArrayList<>();
        Audit audit = new Audit(database, log());
        while (writers.stream().anyMatch(Thread::isAlive)) {
            found.addAll(audit.inPassing(Instant.now(), 1));
        }
        for (Thread writer : writers) {
            writer.join();
        }
        assertThat(found).isEmpty();
    }

    @Test
    void anAlteredCheckpoint() {
        alter("update checkpoint set text = replace(text, '\"size\":12', '\"size\":11'), size = 11");
        assertBrokenAt(1, "altered, or signed by another key");
    }

    @Test
    void aCheckpointSignedByAnotherKey() {
        signed.keep(new Checkpoint.Reach(1, 0, ""));
        Signer other = new Signer(Signers.key(), signed);
        assertThat(new Records(database, new RecordLog(database, other))
                        .checked(ONE)
                        .problem()
                        .orElseThrow()
                        .message())
                .contains("signed by another key");
    }

    @Test
    void anOlderWholeDatabaseInThePlaceOfTheNewer() {
        database.close();
        Runnable older = Stores.copyOf(folder);
        open();
        KillTarget.write(cases, ONE);
        sign();
        assertThat(problem()).isEmpty();
        database.close();
        older.run();
        open();
        assertThat(problem().orElseThrow().message()).contains("an older database stands in the place of the newer");
        assertThatThrownBy(this::grownAndSigned)
                .isInstanceOf(Signer.NotAnExtension.class)
                .hasMessageContaining("were signed");
    }

    @Test
    void aSwappedSnapshotIsNotShown() {
        alter("update case_snapshot set body = replace(body, 'Gate stands open', 'All is well') where ticket = 'I-1'");
        Tickets tickets = new Tickets(reopened());
        assertThat(tickets.find(ONE).orElseThrow().text("title")).contains("Gate stands open");
        // Nor is an older one of the ticket's own put in its place, nor one of another ticket.
        for (Map.Entry<String, String> swap : Map.of("I-1", "I-2").entrySet()) {
            alter("update case_snapshot set body = (select body from case_snapshot where ticket = '" + swap.getValue()
                    + "'), mac = (select mac from case_snapshot where ticket = '" + swap.getValue()
                    + "') where ticket = '" + swap.getKey() + "'");
        }
        assertThat(new Tickets(reopened()).find(ONE).orElseThrow().id()).isEqualTo(ONE);
    }

    private Database reopened() {
        database.close();
        open();
        return database;
    }

    @Test
    void checkpointsAreChainedAndOneAMinuteIsKept() {
        Instant start = Instant.now();
        for (int second = 1; second <= 180; second += 20) {
            KillTarget.write(cases, ONE);
            log().catchUp();
            log().sign(start.plus(Duration.ofSeconds(second)));
        }
        List<Checkpoint> kept = log().checkpoints(100).reversed();
        assertThat(kept).hasSizeBetween(3, 5);
        for (int i = 1; i < kept.size(); i++) {
            assertThat(kept.get(i).text()).contains(kept.get(i - 1).hash());
            assertThat(MerkleTree.isExtension(
                            kept.get(i - 1).size(),
                            HexFormat.of().parseHex(kept.get(i - 1).root()),
                            kept.get(i).size(),
                            HexFormat.of().parseHex(kept.get(i).root()),
                            log()
                                    .consistency(
                                            kept.get(i - 1).size(), kept.get(i).size())
                                    .stream()
                                    .map(HexFormat.of()::parseHex)
                                    .toList()))
                    .isTrue();
        }
    }

    /** More leaves than a row of the tree holds, and the tree is that of the standard. */
    @Test
    void theTreeGrowsOverManyRows() {
        for (int i = 0; i < 300; i++) {
            KillTarget.write(cases, i % 2 == 0 ? ONE : OTHER);
        }
        sign();
        assertThat(problem()).isEmpty();
        RecordLog.Covered covered = log().covered(ONE).orElseThrow();
        assertThat(covered.seq()).isEqualTo(last());
        assertThat(covered.proof().checkpoint().size()).isEqualTo(312);
        byte[] root = MerkleTree.rootOf(
                MerkleTree.leaf(Checkpoint.leaf(ONE, covered.seq(), covered.hash())),
                covered.proof().leaf(),
                312,
                covered.proof().path().stream().map(HexFormat.of()::parseHex).toList());
        assertThat(HexFormat.of().formatHex(root))
                .isEqualTo(covered.proof().checkpoint().root());
    }

    /** What was hardly in use and was written anew at the start is the same record, and proved. */
    @Test
    void aFileThatWasWrittenAnewHoldsAll() {
        assumeThat(Stores.onServer()).as("a file is of the built-in database").isFalse();
        database.tidying().close();
        for (int i = 0; i < 200; i++) {
            KillTarget.write(cases, i % 2 == 0 ? ONE : OTHER);
        }
        sign();
        List<Entry> before = entries();
        database.close();
        assertThat(H2File.shrink(folder, 0)).isTrue();
        open();
        assertThat(entries()).isEqualTo(before);
        assertThat(problem()).isEmpty();
        assertThat(new Audit(database, log()).run(done -> {}).findings()).isEmpty();
    }
}
