package dastur.bench;

import dastur.core.people.Group;
import dastur.core.people.GroupId;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.people.Role;
import dastur.core.ticket.CiId;
import dastur.core.ticket.ConfigurationItem;
import dastur.store.Database;
import dastur.store.Journal;
import dastur.store.SetUp;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.IntStream;

/** Fills an organisation with people, groups and CIs. */
final class Many {
    private static final int AT_ONCE = 1_000;

    private final SetUp setUp;
    private final Journal.By by = new Journal.By(new PersonId("bench"), Instant.now());

    Many(Database database) {
        this.setUp = new SetUp(database);
    }

    /** @param from how many of each there are; people, groups and CIs are filled up to the other figures */
    void fill(int from, int people, int groups, int cis) {
        for (int begin = from; begin < people; begin += AT_ONCE) {
            setUp.people(
                    by,
                    IntStream.range(begin, Math.min(people, begin + AT_ONCE))
                            .mapToObj(i -> new SetUp.Account(
                                    new Person(
                                            new PersonId("p" + i),
                                            "Person " + i + " of Quay " + i % 40,
                                            "p" + i + "@kestrel.example",
                                            Set.of(Role.AGENT),
                                            true),
                                    List.of()))
                            .toList());
        }
        IntStream.range(from, groups)
                .forEach(i -> setUp.group(
                        by,
                        new Group(
                                new GroupId("g" + i),
                                "Group " + i,
                                IntStream.range(0, 5)
                                        .mapToObj(k -> new PersonId("p" + (i * 5 + k) % people))
                                        .toList())));
        for (int begin = from; begin < cis; begin += AT_ONCE) {
            setUp.cis(
                    by,
                    IntStream.range(begin, Math.min(cis, begin + AT_ONCE))
                            .mapToObj(i -> new ConfigurationItem(
                                    new CiId("K-" + i),
                                    "Kiosk at quay " + i,
                                    "kiosk",
                                    null,
                                    null,
                                    null,
                                    null,
                                    "in use",
                                    Map.of()))
                            .toList(),
                    null);
        }
    }
}
