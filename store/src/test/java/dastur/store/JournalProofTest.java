package dastur.store;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dastur.core.people.Group;
import dastur.core.people.GroupId;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.people.Role;
import dastur.core.ticket.CiId;
import dastur.core.ticket.ConfigurationItem;
import dastur.core.ticket.Service;
import dastur.core.ticket.ServiceId;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.Connection;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import dastur.core.workflow.WorkflowKey;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Attacks on the journal and on what it says was set: each is found, and where (K17). */
class JournalProofTest {
    private static final PersonId ADA = new PersonId("ada");
    private static final WorkflowKey GATE = new WorkflowKey("gate");

    private Database database;
    private SetUp setUp;
    private StoredSecrets secrets;
    private RecordLog log;

    @BeforeEach
    void open() {
        database = Stores.empty();
        new Organisation(database)
                .putPerson(
                        new Person(ADA, "Ada Brandvold", "ada@kestrel.example", Set.of(Role.ADMINISTRATOR), true),
                        null);
        setUp = new SetUp(database);
        setUp.person(by(), runa(Set.of(Role.AGENT)), List.of());
        setUp.group(by(), new Group(new GroupId("pier"), "Pier", List.of(ADA)));
        setUp.person(by(), runa(Set.of(Role.AGENT)), List.of(new GroupId("pier")));
        setUp.service(by(), new Service(new ServiceId("gates"), "Gates", false, null, null));
        setUp.connection(by(), new Connection("lanes", "Lanes", "https://lanes.kestrel.example", List.of(), null));
        setUp.connection(by(), new Connection("lanes", "Lanes", "https://gates.kestrel.example", List.of(), null));
        Workflows workflows = new Workflows(database);
        workflows.create(WorkflowsTest.named("gate", 1, "Gate"), ADA, by().at());
        workflows.publish(GATE, 1, ADA, by().at()).orElseThrow();
        workflows.setTriggers(
                by(),
                GATE,
                List.of(new Trigger(
                        new TriggerId("gate-1"), true, new Trigger.ByHand(TicketKind.INCIDENT), List.of(), null)));
        new KnownAnswers(database)
                .put(
                        by(),
                        new KnownAnswers.KnownAnswer("lost", "Lost?", "Ask the pier.", null, "The pier", null, ADA, 0));
        secrets = new StoredSecrets(database, new byte[32]);
        secrets.set(by(), "lanes", "first");
        secrets.set(by(), "old", "gone soon");
        secrets.remove(by(), "old");
        setUp.cis(by(), List.of(gate2()), null);
        setUp.cis(by(), List.of(gate("in use")), List.of(new SetUp.Relation("stands on", "ALD-G2")));
        log = new RecordLog(database, Signers.fresh());
        log.catchUp();
        log.sign(Instant.now());
    }

    @AfterEach
    void close() {
        database.close();
    }

    private static Journal.By by() {
        return new Journal.By(ADA, Instant.parse("2026-03-02T08:00:00.123456Z"));
    }

    private static Person runa(Set<Role> roles) {
        return new Person(new PersonId("runa"), "Runa Feld", "runa@kestrel.example", roles, true);
    }

    private String found() {
        return new Audit(database, log).run(done -> {}).findings().toString();
    }

    private void alter(String sql) {
        assertThat(database.<Integer>write(session -> session.doReturningWork(c -> Jdbc.update(c, sql))))
                .isPositive();
    }

    @Test
    void anUntouchedJournalFits() {
        assertThat(found()).isEqualTo("[]");
        List<Journal.Line> lines = new Journal(database).lines(null, 50).items();
        assertThat(lines).extracting(Journal.Line::did).contains("made", "changed");
        assertThat(lines.toString()).contains("members");
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "update journal set detail = 'nothing' where seq = 7 | line 7 does not have its hash",
                "update journal set who = 'runa' where seq = 2 | line 2 does not have its hash",
                "update journal set subject_id = 'x' where seq = 3 | line 3 does not have its hash",
                "delete from journal where seq = 2 | line 2 is not there",
                "delete from journal where seq = 16 | the log holds another line 16",
                "update person set roles = 'administrator' where id = 'runa' | person runa is not what",
                "update team set name = 'Others' where id = 'pier' | group pier is not what",
                "delete from team_member where person = 'ada' | group pier is not what",
                "update service set name = 'X' where id = 'gates' | service gates is not what",
                "update document set body = replace(body, 'gates', 'spy') where name = 'lanes' | connection lanes is not what",
                "delete from document where name = 'lanes' | connection lanes is not what",
                "update workflow_version set body = replace(body, 'Gate', 'Door') | workflow version gate 1 is not what",
                "delete from workflow_version | workflow version gate 1 is not what",
                "update workflow set retired = true | workflow gate is not what",
                "update workflow set live_version = null | workflow gate is not what",
                "update workflow_trigger set body = replace(body, 'incident', 'change') | triggers gate is not what",
                "delete from workflow_trigger | triggers gate is not what",
                "update known_answer set answer = 'Ask nobody.' | known answer lost is not what",
                "delete from known_answer | known answer lost is not what",
                "delete from secret where name = 'lanes' | secret lanes is not what",
                "insert into secret (name, sealed, set_at) values ('old', 'x', current_timestamp) | secret old is not what",
                "update ci set life = 'retired' where id = 'ALD-G1' | CI ALD-G1",
                "update ci set attributes = '{\"lane\":\"open\"}' where id = 'ALD-G1' | CI ALD-G1",
                "delete from ci_relation | CI ALD-G1",
            })
    void eachAttackIsFound(String sql, String words) {
        alter(sql);
        assertThat(found()).contains(words);
    }

    /** Whoever rewrites a line and all that follows it gets another head than the log holds. */
    @Test
    void aJournalWrittenAnewIsFound() {
        database.run(session -> {
            Journal.Row line = session.createSelectionQuery("from JournalRow where seq = 16", Journal.Row.class)
                    .getSingleResult();
            String previous = session.createSelectionQuery("select hash from JournalRow where seq = 15", String.class)
                    .getSingleResult();
            line.detail = "nothing";
            line.hash = dastur.core.record.Seal.hash(line.sealed(previous));
            session.update(line);
        });
        assertThat(found()).contains("the log holds another line 16");
    }

    /** An older value of a secret, put back by somebody who kept the row. */
    @Test
    void anOlderSecretIsFound() {
        String older = database.read(session -> session.doReturningWork(
                c -> Jdbc.query(c, "select sealed from secret where name = 'lanes'", r -> r.getString(1))
                        .getFirst()));
        secrets.set(by(), "lanes", "second");
        log.catchUp();
        assertThat(found()).isEqualTo("[]");
        alter("update secret set sealed = '" + older + "' where name = 'lanes'");
        assertThat(secrets.find("lanes")).contains("first");
        assertThat(found()).contains("secret lanes is not what");
    }

    /** What people decide by is refused before it is used, not only found by the next audit. */
    @Test
    void aVersionThatWasAlteredIsNotUsed() {
        Workflows workflows = new Workflows(database);
        assertThat(workflows.version(GATE, 1)).isPresent();
        alter("update workflow_version set body = replace(body, 'Gate', 'Door')");
        assertThatThrownBy(() -> workflows.version(GATE, 1)).hasMessageContaining("not the one that was published");
    }

    private static ConfigurationItem gate(String life) {
        return new ConfigurationItem(
                new CiId("ALD-G1"), "Gate 1", "gate", null, "ALD", null, null, life, Map.of("lane", "closed"));
    }

    private static ConfigurationItem gate2() {
        return new ConfigurationItem(new CiId("ALD-G2"), "Gate 2", "gate", null, "ALD", null, null, "in use", Map.of());
    }
}
