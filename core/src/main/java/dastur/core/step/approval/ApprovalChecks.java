package dastur.core.step.approval;

import dastur.core.finding.Inspection;
import dastur.core.people.Group;
import dastur.core.people.Party;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.workflow.ApprovalRule;
import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import java.util.TreeSet;

/** Checks approvals: whether those who are asked can meet the rule, and what else would never come to anything. */
final class ApprovalChecks {
    private final Inspection in;

    ApprovalChecks(Inspection in) {
        this.in = in;
    }

    void check(Approval s) {
        in.text(s, "question", s.question());
        in.text(s, "setsOff", s.setsOff());
        if (s.asked().isEmpty()) {
            in.blocks("nobody", s, "asked", "'" + s.name() + "' asks nobody. Name the people or groups who decide.");
        }
        s.asked().forEach(p -> in.somebody(s, "asked", p));
        rule(s);
        for (String path : s.shown()) {
            if (in.expressions().vocabulary().field(path).isEmpty()) {
                in.blocks(
                        "unknown field", s, "shown", "'" + s.name() + "' shows '" + path + "', which does not exist.");
            }
        }
        if (s.notDoersOf() != null) {
            s.notDoersOf().stream()
                    .filter(id -> in.version().find(id).isEmpty())
                    .forEach(id -> in.blocks(
                            "unknown step",
                            s,
                            "notDoersOf",
                            "'" + s.name() + "' excludes the doers of a step that does not exist."));
        }
        in.ladder(s, s.ladder(), s.within(), true);
        if (s.within() != null && !s.ways().containsKey("lapsed")) {
            in.warns(
                    "lapse stalls",
                    s,
                    "within",
                    "When nobody decides on '" + s.name()
                            + "' in time, the run stalls. Lead 'lapsed' somewhere if it should go on.");
        }
    }

    private void rule(Approval s) {
        Set<PersonId> electorate = new TreeSet<>();
        boolean known = s.asked().stream().allMatch(p -> membersKnown(p, electorate));
        if (s.terms() != null) {
            // Those of whom the day decides may be none of them; only who is known for certain is taken away.
            Set<PersonId> without = new TreeSet<>();
            s.terms().without().forEach(p -> membersKnown(p, without));
            boolean anybody = !electorate.isEmpty();
            electorate.removeAll(without);
            if (known && anybody && electorate.isEmpty()) {
                in.blocks(
                        "cannot be met",
                        s,
                        "terms",
                        "Everybody who is asked about '" + s.name() + "' may not vote on it. Ask somebody else too.");
            }
        }
        if (known && !electorate.isEmpty() && s.rule().needed(electorate.size()) > electorate.size()) {
            in.blocks(
                    "cannot be met",
                    s,
                    "rule",
                    "'" + s.name() + "' needs " + s.rule().needed(electorate.size()) + " approving, but only "
                            + electorate.size() + " are asked.");
        }
        if (known && (s.rule() instanceof ApprovalRule.OneFromEach || s.rule() instanceof ApprovalRule.InSequence)) {
            List<List<PersonId>> sets = new ArrayList<>();
            for (Party party : s.asked()) {
                Set<PersonId> members = new TreeSet<>();
                membersKnown(party, members);
                members.retainAll(electorate);
                sets.add(List.copyOf(members));
            }
            if (!Matching.covers(sets, electorate)) {
                in.blocks(
                        "cannot be met",
                        s,
                        "rule",
                        "'" + s.name() + "' needs one from each of " + sets.size()
                                + ", each another person, and there are not enough people for that.");
            }
        }
        if (known && s.terms() != null) {
            veto(s, s.terms(), electorate);
        }
    }

    /** A veto is for those who are asked: of anybody else it would never be heard. */
    private void veto(Approval s, Approval.Terms terms, Set<PersonId> electorate) {
        for (Party party : terms.veto()) {
            Set<PersonId> members = new TreeSet<>();
            if (membersKnown(party, members) && members.stream().noneMatch(electorate::contains)) {
                in.blocks(
                        "veto not asked",
                        s,
                        "terms",
                        "Somebody has a veto on '" + s.name()
                                + "' who is not asked, so it would never be heard. Ask them too, or take the veto away.");
            }
        }
    }

    private boolean membersKnown(Party party, Set<PersonId> into) {
        switch (party) {
            case Party.OfGroup g ->
                in.around().groups().apply(g.group()).map(Group::members).ifPresent(into::addAll);
            case Party.OfPerson p -> into.add(p.person());
            case Party.Requester r -> {
                return false;
            }
            case Party.TicketGroup t -> {
                return false;
            }
            case Party.CiOwner o -> {
                return false;
            }
            case Party.OnCall o -> {
                return false;
            }
            case Party.OfRole r -> {
                return false;
            }
            case Party.Manager m -> {
                return false;
            }
            case Party.TakesPart t -> {
                return false;
            }
            case Party.Computed c -> {
                return false;
            }
        }
        into.removeIf(
                id -> in.around().people().apply(id).filter(Person::active).isEmpty());
        return true;
    }
}
