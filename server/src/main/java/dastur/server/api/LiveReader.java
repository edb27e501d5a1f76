package dastur.server.api;

import dastur.core.people.Person;
import dastur.core.people.Right;
import dastur.core.ticket.TicketId;
import dastur.server.work.Live;
import dastur.store.Organisation;
import dastur.store.Tickets;
import java.time.InstantSource;
import java.util.HashSet;
import java.util.Set;

/** Somebody with an open browser, as far as it matters for what is told of changes. */
record LiveReader(Person person, Sight sight, Tickets tickets, Organisation organisation, InstantSource clock)
        implements Live.Reader {
    @Override
    public boolean maySee(TicketId ticket) {
        return sight.maySee(person, ticket);
    }

    @Override
    public Set<String> standsAs() {
        Set<String> words = new HashSet<>(tickets.standsAs(person.id().value()));
        organisation
                .coveredBy(person.id(), clock.instant())
                .forEach(cover -> words.add("p:" + cover.person().value()));
        return words;
    }

    @Override
    public String id() {
        return person.id().value();
    }

    @Override
    public boolean countsAll() {
        return Right.SEE.of(person);
    }

    @Override
    public boolean works() {
        return Right.WORK.of(person);
    }
}
