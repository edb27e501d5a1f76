package dastur.store;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dastur.core.people.Channels;
import dastur.core.people.GroupId;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.people.Role;
import java.time.Instant;
import java.util.List;
import java.util.Set;
import java.util.concurrent.CyclicBarrier;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.RepeatedTest;
import org.junit.jupiter.api.Test;

/** What several set in the same moment: many accounts are set or none, somebody is always left who may administer, nothing is lost. */
class AccountsTest {
    private static final Journal.By BY = new Journal.By(new PersonId("ada"), Instant.parse("2026-03-02T08:00:00Z"));

    private Database database;
    private Organisation organisation;
    private SetUp setUp;

    @BeforeEach
    void open() {
        database = Stores.empty();
        organisation = new Organisation(database);
        setUp = new SetUp(database);
        organisation.putPerson(person("ada", Role.ADMINISTRATOR, null), null);
        organisation.putPerson(person("teo", Role.ADMINISTRATOR, null), null);
    }

    @AfterEach
    void close() {
        database.close();
    }

    private static Person person(String id, Role role, @Nullable String manager) {
        return new Person(new PersonId(id), id, "", Set.of(role), true, manager == null ? null : new PersonId(manager));
    }

    private static SetUp.Account account(Person person) {
        return new SetUp.Account(person, List.of());
    }

    private long administrators() {
        return organisation.people().stream()
                .filter(p -> p.active() && p.has(Role.ADMINISTRATOR))
                .count();
    }

    /** Each alone leaves the other; both at once would leave nobody. */
    @RepeatedTest(5)
    void twoWhoTakeEachOthersRightInTheSameMomentLeaveOne() throws Exception {
        CyclicBarrier together = new CyclicBarrier(2);
        try (ExecutorService threads = Executors.newFixedThreadPool(2)) {
            List<Future<Boolean>> done = Stream.of("ada", "teo")
                    .map(id -> threads.submit(() -> {
                        together.await();
                        return setUp.person(BY, person(id, Role.AGENT, null), List.of());
                    }))
                    .toList();
            assertThat(List.of(done.get(0).get(), done.get(1).get())).containsExactlyInAnyOrder(true, false);
        }
        assertThat(administrators()).isOne();
    }

    /** Each reads all parts and writes all parts: neither takes the other's away. */
    @RepeatedTest(5)
    void twoWhoSetTwoPartsInTheSameMomentSetBoth() throws Exception {
        CyclicBarrier together = new CyclicBarrier(2);
        try (ExecutorService threads = Executors.newFixedThreadPool(2)) {
            Future<Channels> one = threads.submit(() -> {
                together.await();
                return setUp.channels(BY, set -> set.withAddress("https://desk.example"));
            });
            Future<Channels> other = threads.submit(() -> {
                together.await();
                return setUp.channels(
                        BY, set -> set.withChat(new Channels.Chat("https://chat.example", "channel.chat.1")));
            });
            one.get();
            other.get();
        }
        assertThat(organisation.channels().address()).isEqualTo("https://desk.example");
        assertThat(organisation.channels().chat().secret()).isEqualTo("channel.chat.1");
    }

    @Test
    void whoTakesOverMayDoSoInTheSameFile() {
        organisation.putPerson(person("teo", Role.AGENT, null), null);
        assertThat(setUp.people(
                        BY,
                        List.of(
                                account(person("ada", Role.AGENT, null)),
                                account(person("runa", Role.ADMINISTRATOR, null)))))
                .isTrue();
        assertThat(administrators()).isOne();
    }

    @Test
    void aFileThatLeavesNobodyChangesNothing() {
        List<Person> before = organisation.people();
        int lines = journal();
        assertThat(setUp.people(
                        BY,
                        List.of(
                                account(person("runa", Role.AGENT, null)),
                                account(person("ada", Role.AGENT, null)),
                                account(person("teo", Role.AUDITOR, null)))))
                .isFalse();
        assertThat(organisation.people()).isEqualTo(before);
        assertThat(journal()).isEqualTo(lines);
    }

    @Test
    void aManagerWhoIsNotThereYetStopsTheWholeFile() {
        List<Person> before = organisation.people();
        assertThatThrownBy(() -> setUp.people(
                        BY,
                        List.of(
                                account(person("sem", Role.AGENT, null)),
                                account(person("runa", Role.AGENT, "nobody-there")))))
                .isInstanceOf(RuntimeException.class);
        assertThat(organisation.people()).isEqualTo(before);
        assertThat(setUp.people(
                        BY,
                        List.of(account(person("sem", Role.AGENT, null)), account(person("runa", Role.AGENT, "sem")))))
                .isTrue();
        assertThat(organisation.person(new PersonId("runa")).orElseThrow().manager())
                .isEqualTo(new PersonId("sem"));
    }

    @Test
    void eachAccountStandsInTheJournalAndEachGroupThatChanged() {
        setUp.group(BY, new dastur.core.people.Group(new GroupId("pier"), "Pier", List.of()));
        int lines = journal();
        setUp.people(
                BY,
                List.of(
                        new SetUp.Account(person("runa", Role.AGENT, null), List.of(new GroupId("pier"))),
                        account(person("sem", Role.AGENT, null))));
        assertThat(journal()).isEqualTo(lines + 3);
    }

    private int journal() {
        return new Journal(database).lines(null, 100).items().size();
    }
}
