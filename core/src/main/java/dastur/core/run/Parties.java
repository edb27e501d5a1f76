package dastur.core.run;

import dastur.core.expression.Outcome;
import dastur.core.expression.TextTemplate;
import dastur.core.people.Group;
import dastur.core.people.GroupId;
import dastur.core.people.Party;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.ticket.ConfigurationItem;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.TreeSet;

/** Turns the parties a designer names into groups and people, and renders texts for them. */
final class Parties {
    private final Deciding d;

    Parties(Deciding d) {
        this.d = d;
    }

    /** On a test, whoever tries it stands for all of them; where nobody would be asked, nobody is. */
    Assigned assigned(List<Party> parties, Position position) {
        Assigned meant = meant(parties, position);
        return d.now().test() == null || active(meant).isEmpty()
                ? meant
                : Tests.instead(d.now().test());
    }

    private Assigned meant(List<Party> parties, Position position) {
        List<GroupId> groups = new ArrayList<>();
        List<PersonId> people = new ArrayList<>();
        for (Party party : parties) {
            switch (party) {
                case Party.OfGroup g -> groups.add(g.group());
                case Party.OfPerson p -> people.add(p.person());
                case Party.Requester r ->
                    d.now().text("requester").map(PersonId::new).ifPresent(people::add);
                case Party.TicketGroup t ->
                    d.now().text("group").map(GroupId::new).ifPresent(groups::add);
                case Party.CiOwner o ->
                    d.scope(position).ci().map(ConfigurationItem::owner).ifPresent(groups::add);
                case Party.OnCall o ->
                    d.lookups()
                            .rota(o.rota())
                            .flatMap(r -> r.onCall(o.level(), d.at()))
                            .ifPresent(people::add);
                case Party.OfRole r -> people.addAll(d.lookups().withRole(r.role()));
                case Party.TakesPart t -> people.addAll(d.now().parts().getOrDefault(t.as(), List.of()));
                case Party.Manager m ->
                    d.now()
                            .text("requester")
                            .map(PersonId::new)
                            .flatMap(p -> d.lookups().person(p))
                            .map(Person::manager)
                            .ifPresent(people::add);
                case Party.Computed c -> computed(c, position, groups, people);
            }
        }
        return new Assigned(groups, people);
    }

    /** An expression names a person or a group by id; what is neither names nobody. */
    private void computed(Party.Computed c, Position position, List<GroupId> groups, List<PersonId> people) {
        if (d.expressions(position.run()).evaluate(c.expression(), d.scope(position)) instanceof Outcome.Value v
                && v.value() instanceof String id
                && id.length() <= 80) {
            try {
                if (d.lookups().person(new PersonId(id)).isPresent()) {
                    people.add(new PersonId(id));
                } else if (d.lookups().group(new GroupId(id)).isPresent()) {
                    groups.add(new GroupId(id));
                }
            } catch (IllegalArgumentException notAnId) {
                // Names nobody; whoever needs somebody stalls and says so.
            }
        }
    }

    /** Every active person behind the parties, in the order of their ids. */
    List<PersonId> members(List<Party> parties, Position position) {
        return active(assigned(parties, position));
    }

    /** Every active person behind groups and names, in the order of their ids (D3). */
    List<PersonId> active(Assigned assigned) {
        TreeSet<PersonId> all = new TreeSet<>(assigned.people());
        assigned.groups().forEach(g -> d.lookups().group(g).map(Group::members).ifPresent(all::addAll));
        return all.stream()
                .filter(p -> d.lookups().person(p).filter(Person::active).isPresent())
                .toList();
    }

    /** Whether a person is one of those to whom something is offered. */
    boolean isOneOf(PersonId person, Assigned assigned) {
        return assigned.people().contains(person)
                || assigned.groups().stream()
                        .map(g -> d.lookups().group(g))
                        .flatMap(Optional::stream)
                        .anyMatch(g -> g.members().contains(person));
    }

    String render(String text, Position position) {
        return TextTemplate.parse(text)
                .render(d.expressions(position.run()), d.scope(position), TextTemplate.Target.PLAIN)
                .text();
    }
}
