package dastur.store;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.people.PersonId;
import dastur.core.run.VisitId;
import dastur.store.Chats.Asked;
import java.time.LocalTime;
import java.time.ZoneId;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** What was asked in rooms, and how people are reached (N41, N60). */
class ChatsTest {
    private static final PersonId TEO = new PersonId("teo");
    private static final VisitId VISIT = new VisitId("I-7.1.4");

    private static final java.time.Instant NOW = java.time.Instant.parse("2026-03-02T10:00:00Z");

    private Database database;
    private Chats chats;

    @BeforeEach
    void open() {
        database = Stores.empty();
        database.run(session -> session.createNativeMutationQuery(
                        "insert into person (id, name, mail, roles, active) values ('teo', 'Teo', '', '', true)")
                .executeUpdate());
        chats = new Chats(database);
    }

    @AfterEach
    void close() {
        database.close();
    }

    private static Asked asked(String event, VisitId visit, int round) {
        return new Asked(event, "!teo", TEO, visit, round, "shown", "“Close?” on " + visit.ticket(), NOW, false);
    }

    @Test
    void whatWasAskedInARoomStandsThereTheLastFirstAlsoWhenItIsSettled() {
        chats.keepAsk(asked("$one", VISIT, 1));
        chats.keepAsk(asked("$two", new VisitId("I-8.1.1"), 1));
        chats.settle(new VisitId("I-8.1.1"), 1);
        assertThat(chats.askedIn("!teo", 9)).extracting(Asked::event).containsExactly("$two", "$one");
        assertThat(chats.askedIn("!teo", 9)).extracting(Asked::settled).containsExactly(true, false);
        assertThat(chats.asked("!teo", "$one")).map(Asked::visit).contains(VISIT);
        assertThat(chats.askedIn("!priya", 9)).isEmpty();
        chats.forgetSettledBefore(NOW.plusSeconds(1));
        assertThat(chats.askedIn("!teo", 9)).extracting(Asked::event).containsExactly("$one");
    }

    @Test
    void whatIsAskedAgainStaysWhenTheEarlierRoundIsSettled() {
        chats.keepAsk(asked("$first", VISIT, 1));
        chats.keepAsk(asked("$again", VISIT, 2));
        assertThat(chats.asksOf(VISIT, 1)).extracting(Asked::event).containsExactly("$first");
        chats.settle(VISIT, 1);
        assertThat(chats.asksOf(VISIT, 9)).extracting(Asked::event).containsExactly("$again");
        chats.settle(VISIT, Integer.MAX_VALUE);
        assertThat(chats.asksOf(VISIT, 9)).isEmpty();
    }

    @Test
    void anotherNameInChatLeavesTheRoomOfTheEarlierOne() {
        Chats.Reach reach = new Chats.Reach(
                "@teo:one",
                Chats.Channel.CHAT,
                Chats.Channel.MAIL,
                LocalTime.of(22, 0),
                null,
                ZoneId.of("Europe/Oslo"));
        chats.putReach(TEO, reach);
        chats.keepRoom(TEO, "!teo");
        assertThat(chats.reach(TEO)).isEqualTo(reach);
        assertThat(chats.personCalled("@teo:one")).contains(TEO);
        assertThat(chats.roomWith(TEO)).contains("!teo");
        chats.putReach(TEO, Chats.Reach.MAIL);
        assertThat(chats.roomWith(TEO)).isEmpty();
        assertThat(chats.personCalled("@teo:one")).isEmpty();
    }
}
