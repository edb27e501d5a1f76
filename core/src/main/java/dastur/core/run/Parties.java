package dastur.core.run;

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

    Assigned assigned(List<Party> parties, Run run) {
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
                    d.scope(run).ci().map(ConfigurationItem::owner).ifPresent(groups::add);
            }
        }
        return new Assigned(groups, people);
    }

    /** Every active person behind the parties, in the order of their ids. */
    List<PersonId> members(List<Party> parties, Run run) {
        return active(assigned(parties, run));
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

    String render(String text, Run run) {
        return TextTemplate.parse(text)
                .render(d.expressions(run), d.scope(run), TextTemplate.Target.PLAIN)
                .text();
    }
}
