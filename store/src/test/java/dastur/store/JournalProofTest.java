package dastur.store;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.people.Group;
import dastur.core.people.GroupId;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.people.Role;
import dastur.core.ticket.Service;
import dastur.core.ticket.ServiceId;
import dastur.core.workflow.Connection;
import java.time.Instant;
import java.util.List;
import java.util.Set;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Attacks on the journal and on what it says was set: each is found, and where (K17). */
class JournalProofTest {
    private static final PersonId ADA = new PersonId("ada");

    private Database database;
    private SetUp setUp;
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
        assertThat(database.<Integer>write(session -> session.doReturningWork(c -> Straight.update(c, sql))))
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
                "update journal set person = 'runa' where seq = 2 | line 2 does not have its hash",
                "update journal set subject_id = 'x' where seq = 3 | line 3 does not have its hash",
                "delete from journal where seq = 2 | line 2 is not there",
                "delete from journal where seq = 7 | the log holds another line 7",
                "update person set roles = 'administrator' where id = 'runa' | person runa is not what",
                "update team set name = 'Others' where id = 'pier' | group pier is not what",
                "delete from team_member where person = 'ada' | group pier is not what",
                "update service set name = 'X' where id = 'gates' | service gates is not what",
                "update document set body = replace(body, 'gates', 'spy') where name = 'lanes' | connection lanes is not what",
                "delete from document where name = 'lanes' | connection lanes is not what",
            })
    void eachAttackIsFound(String sql, String words) {
        alter(sql);
        assertThat(found()).contains(words);
    }

    /** Whoever rewrites a line and all that follows it gets another head than the log holds. */
    @Test
    void aJournalWrittenAnewIsFound() {
        database.run(session -> {
            Journal.Row line = session.createSelectionQuery("from JournalRow where seq = 7", Journal.Row.class)
                    .getSingleResult();
            String previous = session.createSelectionQuery("select hash from JournalRow where seq = 6", String.class)
                    .getSingleResult();
            line.detail = "nothing";
            line.hash = dastur.core.record.Seal.hash(line.sealed(previous));
            session.update(line);
        });
        assertThat(found()).contains("the log holds another line 7");
    }
}
