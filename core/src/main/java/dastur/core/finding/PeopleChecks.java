package dastur.core.finding;

import dastur.core.people.Group;
import dastur.core.people.GroupId;
import dastur.core.people.Party;
import dastur.core.people.Person;
import dastur.core.people.Rota;
import dastur.core.ticket.FieldType;
import dastur.core.time.Span;
import dastur.core.workflow.Ladder;
import dastur.core.workflow.LadderKey;
import dastur.core.workflow.Rung;
import dastur.core.workflow.Step;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** Checks whom steps and their ladders mean. */
final class PeopleChecks {
    private final KnownOrganisation around;
    private final Inspection in;

    PeopleChecks(KnownOrganisation around, Inspection in) {
        this.around = around;
        this.in = in;
    }

    void somebody(Step step, String field, Party party) {
        switch (party) {
            case Party.OfGroup g -> group(step, field, g.group());
            case Party.OfPerson p -> {
                if (around.people().apply(p.person()).filter(Person::active).isEmpty()) {
                    in.blocks(
                            "nobody",
                            step,
                            field,
                            "'" + step.name() + "' names '" + p.person() + "', who is not an active person.");
                }
            }
            case Party.Requester r -> {}
            case Party.TicketGroup t -> {}
            case Party.CiOwner o -> {}
            case Party.OfRole r -> {}
            case Party.TakesPart t -> {}
            case Party.Manager m -> {}
            case Party.OnCall o -> onCall(step, field, o);
            case Party.Computed c ->
                in.typed(step, field, "Who is meant in '" + step.name() + "'", c.expression(), FieldType.TEXT);
        }
    }

    /** A rota or a level of it that is not there. Gaps of a rota are shown on the rota itself: they depend on the day. */
    private void onCall(Step step, String field, Party.OnCall party) {
        Optional<Rota> rota = around.rotas().apply(party.rota());
        if (rota.isEmpty()) {
            in.blocks(
                    "unknown rota",
                    step,
                    field,
                    "'" + step.name() + "' is for who is on call for '" + party.rota()
                            + "', a rota which does not exist.");
        } else if (party.level() > rota.get().levels().size()) {
            in.blocks(
                    "nobody",
                    step,
                    field,
                    "'" + step.name() + "' is for level " + party.level() + " of "
                            + rota.get().name() + ", which has "
                            + rota.get().levels().size() + ".");
        }
    }

    private void group(Step step, String field, GroupId id) {
        Optional<Group> group = around.groups().apply(id);
        if (group.isEmpty()) {
            in.blocks(
                    "unknown group",
                    step,
                    field,
                    "'" + step.name() + "' names the group '" + id + "', which does not exist.");
        } else if (group.get().members().stream()
                .noneMatch(m -> around.people().apply(m).filter(Person::active).isPresent())) {
            in.blocks(
                    "group with nobody",
                    step,
                    field,
                    "'" + step.name() + "' is for " + group.get().name() + ", and nobody is in it.");
        }
    }

    void ladder(Step step, @Nullable LadderKey key, @Nullable Span due, boolean ends) {
        if (key == null) {
            return;
        }
        Optional<Ladder> ladder = around.ladders().apply(key);
        if (ladder.isEmpty()) {
            in.blocks(
                    "unknown ladder",
                    step,
                    "ladder",
                    "'" + step.name() + "' climbs the ladder '" + key + "', which does not exist.");
            return;
        }
        for (Rung rung : ladder.get().rungs()) {
            switch (rung.deed()) {
                case Rung.Tell t -> t.to().forEach(p -> somebody(step, "ladder", p));
                case Rung.Add a -> a.to().forEach(p -> somebody(step, "ladder", p));
                case Rung.HandOver h -> somebody(step, "ladder", h.to());
                case Rung.Decide d -> {
                    if (!step.ways().containsKey(d.exit())) {
                        in.blocks(
                                "rung without a way",
                                step,
                                "ladder",
                                "A rung of '" + ladder.get().name() + "' takes the exit '" + d.exit() + "', but '"
                                        + step.name() + "' has no way from there.");
                    }
                }
                case Rung.Remind r -> {}
                case Rung.RaisePriority r -> {}
            }
            boolean afterEnd = ends
                    && due != null
                    && rung.after().roughSeconds() >= due.roughSeconds()
                    && rung.after().working() == due.working();
            if (afterEnd) {
                in.warns(
                        "rung after the end",
                        step,
                        "ladder",
                        "A rung of '" + ladder.get().name() + "' fires after " + rung.after() + ", when '" + step.name()
                                + "' is already over.");
            }
        }
    }
}
