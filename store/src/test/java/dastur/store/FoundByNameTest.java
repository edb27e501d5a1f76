package dastur.store;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.people.Group;
import dastur.core.people.GroupId;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.people.Role;
import java.util.List;
import java.util.Set;
import java.util.stream.IntStream;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** People and groups by letters of what they are called; what counts the states of the organisation. */
class FoundByNameTest {
    private Database database;
    private Organisation organisation;

    @BeforeEach
    void open() {
        database = Stores.empty();
        organisation = new Organisation(database);
        IntStream.range(0, 8).forEach(i -> person("p" + i, "A Lind number " + i));
        person("lind", "Zoe Marker");
        person("zz", "Lind");
        person("half", "100% of_it!");
        group("lind", List.of("zz", "half"));
        group("Lind of the night", List.of());
    }

    @AfterEach
    void close() {
        database.close();
    }

    private void person(String id, String name) {
        organisation.putPerson(new Person(new PersonId(id), name, "", Set.of(Role.AGENT), true), null);
    }

    private void group(String name, List<String> members) {
        organisation.putGroup(new Group(
                new GroupId(name.replace(' ', '-').toLowerCase(java.util.Locale.ROOT)),
                name,
                members.stream().map(PersonId::new).toList()));
    }

    private List<String> people(String text, int most) {
        return organisation.people(text, most).stream().map(p -> p.id().value()).toList();
    }

    @Test
    void whoIsCalledExactlySoIsAmongTheFewThatAreNamed() {
        assertThat(people("LIND", 3)).containsExactly("zz", "lind", "p0");
        assertThat(people(" lind ", 3)).containsExactly("zz", "lind", "p0");
        assertThat(people("number 7", 3)).containsExactly("p7");
    }

    /** What a pattern would mean is what it is. */
    @ParameterizedTest
    @CsvSource({"100%, half", "f_i, half", "it!, half", "%%, ''", "a_lind, ''", "!, half"})
    void letters(String text, String found) {
        assertThat(String.join(" ", people(text, 9))).isEqualTo(found);
    }

    @Test
    void groupsBringTheirMembersOneByOneAndAllTogether() {
        assertThat(organisation.groups("lind", 1))
                .isEqualTo(organisation.groups().stream()
                        .filter(g -> g.name().equals("lind"))
                        .toList());
        assertThat(organisation.groups())
                .extracting(g -> g.id() + " " + g.members())
                .containsExactlyInAnyOrder("lind [half, zz]", "lind-of-the-night []");
        assertThat(organisation.groups("of the", 5)).extracting(Group::name).containsExactly("Lind of the night");
    }

    @Test
    void eachChangeIsAStateOfItsOwn() {
        long before = organisation.revision();
        assertThat(organisation.revision()).isEqualTo(before);
        person("zz", "Lind-Marker");
        long after = organisation.revision();
        assertThat(after).isGreaterThan(before);
        group("lind", List.of());
        assertThat(organisation.revision()).isGreaterThan(after);
    }
}
