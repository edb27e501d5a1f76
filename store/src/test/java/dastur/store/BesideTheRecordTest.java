package dastur.store;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.people.Cover;
import dastur.core.people.Group;
import dastur.core.people.GroupId;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.people.Role;
import dastur.core.run.LookupKey;
import dastur.core.run.Lookups;
import dastur.core.run.VisitId;
import dastur.core.time.CalendarKey;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.EnumSource;

/** What is kept beside the records: covers, grants, forms half filled in, views, hours of groups. On real H2. */
class BesideTheRecordTest {
    private static final Instant NOW = Instant.parse("2026-03-02T10:00:00Z");
    private static final PersonId RUNA = new PersonId("runa");
    private static final PersonId TEO = new PersonId("teo");
    private static final PersonId ADA = new PersonId("ada");
    private static final PersonId HALVARD = new PersonId("halvard");
    private static final VisitId VISIT = new VisitId("I-1.1.1");

    private Database database;
    private Organisation organisation;

    @BeforeEach
    void open() {
        database = Stores.empty();
        organisation = new Organisation(database);
        for (PersonId id : List.of(RUNA, TEO, ADA, HALVARD)) {
            organisation.putPerson(new Person(id, "Name of " + id, "", Set.of(Role.AGENT), true), null);
        }
    }

    @AfterEach
    void close() {
        database.close();
    }

    private void cover(PersonId person, PersonId by, Cover.Scope scope) {
        organisation.setCover(new Cover(person, by, NOW, NOW.plus(Duration.ofDays(1)), scope));
    }

    private List<String> covers(PersonId person) {
        return organisation.coversOf(person).stream()
                .map(c -> c.scope().word() + " " + c.cover())
                .toList();
    }

    @Test
    void oneCoverForEachKindOrOneForAll() {
        cover(RUNA, TEO, Cover.Scope.TASKS);
        cover(RUNA, ADA, Cover.Scope.DECISIONS);
        assertThat(covers(RUNA)).containsExactly("decisions ada", "tasks teo");
        cover(RUNA, ADA, Cover.Scope.TASKS);
        assertThat(covers(RUNA)).containsExactly("decisions ada", "tasks ada");
        cover(RUNA, TEO, Cover.Scope.ALL);
        assertThat(covers(RUNA)).containsExactly("all teo");
        cover(RUNA, ADA, Cover.Scope.DECISIONS);
        assertThat(covers(RUNA)).containsExactly("decisions ada");
        organisation.endCovers(RUNA);
        assertThat(covers(RUNA)).isEmpty();
    }

    /** From its first moment until just before its last. */
    @ParameterizedTest
    @CsvSource({"-1, false", "0, true", "86399, true", "86400, false"})
    void aCoverCountsInItsTime(long seconds, boolean counts) {
        cover(RUNA, TEO, Cover.Scope.ALL);
        Instant moment = NOW.plusSeconds(seconds);
        assertThat(organisation.coveredBy(TEO, moment)).hasSize(counts ? 1 : 0);
        assertThat(organisation.coversOf(RUNA).getFirst().countsAt(moment)).isEqualTo(counts);
    }

    @ParameterizedTest
    @EnumSource(Cover.Scope.class)
    void whatMeetsWhat(Cover.Scope scope) {
        assertThat(scope.meets(scope)).isTrue();
        assertThat(scope.meets(Cover.Scope.ALL)).isTrue();
        assertThat(Cover.Scope.TASKS.meets(scope)).isEqualTo(scope != Cover.Scope.DECISIONS);
    }

    /** What decisions look up is remembered; a change of a cover or of a group is seen by the next one. */
    @Test
    void decisionsSeeAChangedCoverAndAGroupsHoursAtOnce() {
        Cases cases = new Cases(database, () -> new byte[32]);
        GroupId group = new GroupId("crew");
        assertThat(coversSeen(cases)).isEmpty();
        cover(RUNA, TEO, Cover.Scope.ALL);
        assertThat(coversSeen(cases)).extracting(Cover::cover).containsExactly(TEO);
        organisation.endCovers(RUNA);
        assertThat(coversSeen(cases)).isEmpty();

        organisation.putGroup(new Group(group, "Crew", List.of(RUNA)));
        assertThat(hours(cases, group)).isEmpty();
        organisation.putGroup(new Group(group, "Crew", List.of(RUNA), new CalendarKey("office")));
        assertThat(hours(cases, group)).contains(new CalendarKey("office"));
        assertThat(organisation.group(group)).map(Group::calendar).contains(new CalendarKey("office"));
    }

    private static List<Cover> coversSeen(Cases cases) {
        return ((Lookups.CoverList) cases.look(new LookupKey.CoversOf(RUNA)).orElseThrow()).covers();
    }

    private static Optional<CalendarKey> hours(Cases cases, GroupId group) {
        return cases.look(new LookupKey.OfGroup(group)).map(g -> ((Group) g).calendar());
    }

    @Test
    void aGrantIsForOneAndForATimeAndStandsOnTheJournal() {
        Sessions sessions = new Sessions(database);
        Journal.By by = new Journal.By(RUNA, NOW);
        assertThat(sessions.mayActAs(HALVARD, RUNA, NOW)).isFalse();
        sessions.grant(by, new Sessions.Grant(RUNA, HALVARD, NOW.plusSeconds(60)));
        assertThat(sessions.mayActAs(HALVARD, RUNA, NOW)).isTrue();
        assertThat(sessions.mayActAs(ADA, RUNA, NOW)).isFalse();
        assertThat(sessions.mayActAs(HALVARD, TEO, NOW)).isFalse();
        assertThat(sessions.mayActAs(HALVARD, RUNA, NOW.plusSeconds(60))).isFalse();
        sessions.endGrant(by, RUNA);
        sessions.endGrant(by, RUNA);
        assertThat(sessions.mayActAs(HALVARD, RUNA, NOW)).isFalse();
        assertThat(new Journal(database).lines(null, 10).items())
                .extracting(Journal.Line::did)
                .containsExactly("no longer acted for", "may be acted for");
    }

    @Test
    void aFormIsKeptForItsWriterUntilItIsOldOrItsTaskIsLongOver() {
        FormDrafts drafts = new FormDrafts(database);
        drafts.put(VISIT, RUNA, Map.of("seen", "bent"), NOW);
        drafts.put(VISIT, RUNA, Map.of("seen", "bent, and loud"), NOW);
        assertThat(drafts.of(VISIT, RUNA)).contains(Map.of("seen", "bent, and loud"));
        assertThat(drafts.of(VISIT, TEO)).isEmpty();
        drafts.forgetOld(NOW.plus(Duration.ofDays(30)));
        assertThat(drafts.of(VISIT, RUNA)).isPresent();
        drafts.forgetOld(NOW.plus(Duration.ofDays(31)));
        assertThat(drafts.of(VISIT, RUNA)).isEmpty();
    }

    @Test
    void viewsBelongToAPlaceAndAPerson() {
        SavedViews views = new SavedViews(database);
        views.put(new SavedViews.View("v1", RUNA, "desk", "Decisions", "kind=decisions", false));
        views.put(new SavedViews.View("v2", TEO, "tickets", "Burning", "priority=P1", true));
        assertThat(views.of(RUNA)).extracting(SavedViews.View::name).containsExactly("Burning", "Decisions");
        assertThat(views.of(ADA)).extracting(SavedViews.View::place).containsExactly("tickets");
        assertThat(views.delete("v2", RUNA)).isFalse();
        assertThat(views.delete("v2", TEO)).isTrue();
        assertThat(views.of(RUNA)).hasSize(1);
    }
}
