package dastur.core.step.approval;

import dastur.core.bpmn.Drawing;
import dastur.core.expression.Vocabulary;
import dastur.core.expression.Yield;
import dastur.core.finding.Inspection;
import dastur.core.finding.Reads;
import dastur.core.notation.Begun;
import dastur.core.notation.Out;
import dastur.core.notation.Phrases;
import dastur.core.notation.Scanner;
import dastur.core.people.Actor;
import dastur.core.people.Party;
import dastur.core.people.PersonId;
import dastur.core.rehearsal.Answer;
import dastur.core.rehearsal.Played;
import dastur.core.rehearsal.Rehearsing;
import dastur.core.run.Climbs;
import dastur.core.run.Climbs.Fired;
import dastur.core.run.Event;
import dastur.core.run.Here;
import dastur.core.run.Rechecks;
import dastur.core.run.Rings;
import dastur.core.run.Settles;
import dastur.core.run.Visit;
import dastur.core.run.VisitId;
import dastur.core.step.Room;
import dastur.core.ticket.FieldType;
import dastur.core.time.Span;
import dastur.core.workflow.ApprovalRule;
import dastur.core.workflow.Brings;
import dastur.core.workflow.Facts;
import dastur.core.workflow.LadderKey;
import dastur.core.workflow.Rung;
import dastur.core.workflow.StepId;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/** People are asked for a decision (N12). */
public final class ApprovalKind
        implements Room<Approval>, Rings<Approval>, Rechecks<Approval>, Climbs<Approval>, Settles {
    @Override
    public String word() {
        return "approval";
    }

    @Override
    public Class<Approval> model() {
        return Approval.class;
    }

    @Override
    public List<Brings> brings() {
        return List.of(
                Brings.of(ApprovalEvents.ApprovalAsked.class),
                Brings.of(ApprovalEvents.ApprovalTurn.class),
                Brings.of(ApprovalEvents.AskedBack.class),
                Brings.of(ApprovalEvents.AnsweredBack.class),
                Brings.of(ApprovalEvents.VoteWithdrawn.class),
                Brings.of(ApprovalEvents.VoteCast.class),
                Brings.of(ApprovalEvents.ApprovalVoided.class),
                Brings.of(ApprovalEvents.ApprovalClosed.class),
                new Brings("votes", Votes.class));
    }

    @Override
    public Facts facts(Approval step) {
        return Facts.PLAIN.deciding(step.shown());
    }

    @Override
    public void yields(Approval step, Vocabulary.Declared declared, Yield into) {
        into.value("by", "Who decided", FieldType.PERSON)
                .value("comment", "Comment", FieldType.LONG_TEXT)
                .value("conditions", "Conditions of those who said yes", FieldType.LIST);
    }

    // --- runs

    @Override
    public void open(Approval step, VisitId visit, boolean guarded, Here here) {
        new Asking(here).ask(visit, step);
    }

    @Override
    public void rang(Approval step, Visit visit, Visit.Alarm alarm, Here here) {
        if (Here.way(step, "lapsed") != null) {
            here.leave(Actor.CLOCK, visit, "lapsed", "the time was up");
        } else {
            here.stall(Actor.CLOCK, visit, "lapsed", "Nobody decided in time, and no way leads on from 'lapsed'.");
        }
    }

    @Override
    public boolean climbs(Approval step, Visit visit, Rung.Deed deed, Here here, Fired fired) {
        return new Asking(here).rung(visit, step, deed, fired);
    }

    @Override
    public int turn() {
        return 30;
    }

    /** What others have changed may be what is shown (N43). */
    @Override
    public void settle(Here here) {
        new Asking(here).checkShownFields();
    }

    @Override
    public void recheck(Approval step, Visit visit, Here here) {
        if (visit.waiting() instanceof Votes votes && new Voting(here).cannotBeMet(votes)) {
            here.stall(
                    Actor.CLOCK,
                    visit,
                    "cannot be met",
                    "'" + votes.name() + "' needs " + votes.needed() + " approving, and too few of those asked"
                            + " are still active. Retry to ask anew.");
        }
    }

    @Override
    public List<Answer> options(Approval step, Visit visit, Rehearsing in) {
        return List.of(Answer.of(step.id(), Answer.Says.APPROVES), Answer.of(step.id(), Answer.Says.DECLINES));
    }

    /** As many votes as it takes to close it. */
    @Override
    public Played give(Approval step, Visit visit, Answer answer, Rehearsing in) {
        boolean yes = answer.says() == Answer.Says.APPROVES;
        Played at = in.stage();
        while (at.refused() == null
                && at.ticket().visit(visit.id()).map(Visit::waiting).orElse(null) instanceof Votes v) {
            Optional<PersonId> voter = v.electorate().stream()
                    .filter(p -> !v.cast().containsKey(p))
                    .findFirst();
            if (voter.isEmpty() || at.ticket().visit(visit.id()).orElseThrow().stall() != null) {
                return at;
            }
            String comment = yes ? null : "not in the rehearsal";
            at = in.at(at)
                    .handle(
                            Actor.of(voter.get()),
                            new ApprovalCommands.Vote(visit.id(), v.round(), v.digest(), yes, comment));
        }
        return at;
    }

    @Override
    public Optional<Answer> answered(StepId step, Event event, Span took) {
        return event instanceof ApprovalEvents.ApprovalClosed e
                ? Optional.of(new Answer(
                        step,
                        e.exit().equals("approved") ? Answer.Says.APPROVES : Answer.Says.DECLINES,
                        null,
                        null,
                        took))
                : Optional.empty();
    }

    // --- findings

    @Override
    public void inspect(Approval s, Inspection in) {
        new ApprovalChecks(in).check(s);
    }

    @Override
    public void reads(Approval s, Reads into) {
        into.text(s.question());
        into.text(s.setsOff());
        s.asked().forEach(into::party);
    }

    // --- text

    @Override
    public List<String> heads() {
        return List.of("approve");
    }

    /** What is read of it. */
    private static final class Read {
        private @Nullable String question;
        private @Nullable String setsOff;
        private boolean notRequester;
        private final List<StepId> notDoersOf = new ArrayList<>();
        private final List<String> shown = new ArrayList<>();
        private boolean commentOnDecline;
        private @Nullable LadderKey ladder;
        private final List<Party> veto = new ArrayList<>();
        private final List<Party> without = new ArrayList<>();
        private boolean commentAlways;
        private boolean mayAddConditions;
    }

    @Override
    public Begun begin(String head, Scanner in) {
        Read read = new Read();
        String name = in.quotedIfThere().orElse("Approve?");
        in.expect("by");
        ApprovalRule rule = rule(in);
        List<Party> asked = asked(in);
        Span within = in.spanAfter("within").orElse(null);
        return lines(
                read,
                new Begun(
                        name,
                        (id, ways, expected) -> new Approval(
                                id,
                                name,
                                read.question,
                                read.setsOff,
                                asked,
                                rule,
                                read.notRequester,
                                read.notDoersOf.isEmpty() ? null : read.notDoersOf,
                                read.shown,
                                read.commentOnDecline,
                                within,
                                read.ladder,
                                ways,
                                expected,
                                new Approval.Terms(
                                        read.veto, read.commentAlways, read.mayAddConditions, read.without))));
    }

    private static Begun lines(Read read, Begun begun) {
        return begun.line("say", line -> read.question = line.text())
                .line("shows", line -> {
                    do {
                        read.shown.add(line.in().key("A field"));
                    } while (line.in().take(","));
                })
                .line("not the requester", line -> read.notRequester = true)
                .line("not who did", line -> {
                    do {
                        read.notDoersOf.add(new StepId(line.in().id("A step")));
                    } while (line.in().take(","));
                })
                .line("without", line -> read.without.addAll(Phrases.parties(line.in())))
                .line("asks why not", line -> read.commentOnDecline = true)
                .line("veto of", line -> read.veto.addAll(Phrases.parties(line.in())))
                .line("asks why always", line -> read.commentAlways = true)
                .line("a yes may name conditions", line -> read.mayAddConditions = true)
                .line("sets off", line -> read.setsOff = line.in().quoted("What a yes sets off"))
                .line("ladder", line -> read.ladder = Phrases.ladder(line.in()));
    }

    private static ApprovalRule rule(Scanner in) {
        if (in.take("everyone of") || in.take("everyone in") || in.take("all of")) {
            return new ApprovalRule.Everyone();
        }
        if (in.take("at least")) {
            int count = in.number("How many must approve");
            boolean share = in.take("percent");
            in.take("of");
            return share ? new ApprovalRule.Share(count) : new ApprovalRule.AtLeast(count);
        }
        if (in.take("a majority of")) {
            return new ApprovalRule.Majority();
        }
        if (in.take("in sequence one from each of") || in.take("in sequence")) {
            return new ApprovalRule.InSequence();
        }
        if (in.take("one from each of")) {
            return new ApprovalRule.OneFromEach();
        }
        boolean ignored = in.take("any one of") || in.take("one of");
        return new ApprovalRule.AnyOne();
    }

    private static List<Party> asked(Scanner in) {
        List<Party> asked = new ArrayList<>();
        do {
            boolean ignored = in.take("one of");
            asked.add(Phrases.party(in));
        } while (in.take(",") || in.take("and"));
        return asked;
    }

    @Override
    public String sentence(Approval s) {
        return "approve " + Phrases.quoted(s.name()) + " by " + rule(s.rule()) + " " + Phrases.parties(s.asked())
                + Phrases.within(s.within());
    }

    private static String rule(ApprovalRule rule) {
        return switch (rule) {
            case ApprovalRule.AnyOne r -> "any one of";
            case ApprovalRule.Everyone r -> "everyone of";
            case ApprovalRule.AtLeast r -> "at least " + r.count() + " of";
            case ApprovalRule.Majority r -> "a majority of";
            case ApprovalRule.Share r -> "at least " + r.percent() + " percent of";
            case ApprovalRule.OneFromEach r -> "one from each of";
            case ApprovalRule.InSequence r -> "in sequence one from each of";
        };
    }

    @Override
    public void settings(Approval s, Out out) {
        Approval.Terms terms = s.terms() == null ? Approval.Terms.PLAIN : s.terms();
        out.text("say", s.question());
        out.optional("shows", s.shown().isEmpty() ? null : String.join(", ", s.shown()));
        out.flag("not the requester", s.notRequester());
        if (s.notDoersOf() != null) {
            out.line("not who did " + s.notDoersOf().stream().map(StepId::value).collect(Collectors.joining(", ")));
        }
        out.optional("without", terms.without().isEmpty() ? null : Phrases.parties(terms.without()));
        out.flag("asks why not", s.commentOnDecline());
        out.optional("veto of", terms.veto().isEmpty() ? null : Phrases.parties(terms.veto()));
        out.flag("asks why always", terms.commentAlways());
        out.flag("a yes may name conditions", terms.mayAddConditions());
        out.optional("sets off", s.setsOff() == null ? null : Phrases.quoted(s.setsOff()));
        out.optional("ladder", s.ladder());
    }

    // --- diagram

    @Override
    public Drawing drawing(Approval s) {
        return Drawing.of("userTask").saying(s.question()).by(s.asked()).within(s.within());
    }

    @Override
    public String usualExit() {
        return "approved";
    }

    @Override
    public Map<String, String> borderExits() {
        return Map.of("timerEventDefinition", "lapsed");
    }
}
