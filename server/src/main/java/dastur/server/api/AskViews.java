package dastur.server.api;

import dastur.core.people.Cover;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.people.Right;
import dastur.core.run.Assigned;
import dastur.core.run.Case;
import dastur.core.run.Engine;
import dastur.core.run.Intervention;
import dastur.core.run.Run;
import dastur.core.run.Visit;
import dastur.core.run.VisitId;
import dastur.core.run.Waiting;
import dastur.core.step.approval.Votes;
import dastur.core.step.callin.OpenCallIn;
import dastur.core.step.calling.Acting;
import dastur.core.step.calling.CallRules;
import dastur.core.step.calling.CallUnderWay;
import dastur.core.step.check.Judging;
import dastur.core.step.check.Review;
import dastur.core.step.task.OpenTask;
import dastur.core.step.waiting.ForCondition;
import dastur.core.step.waiting.ForReply;
import dastur.core.step.waiting.ForSignal;
import dastur.core.step.waiting.Moment;
import dastur.core.ticket.CiId;
import dastur.core.ticket.FieldCatalogue;
import dastur.core.workflow.Step;
import dastur.server.api.Views.ApprovalAsk;
import dastur.server.api.Views.Ask;
import dastur.server.api.Views.Next;
import dastur.server.api.Views.StallView;
import dastur.server.api.Views.TaskAsk;
import dastur.server.work.CommandService;
import dastur.store.FormDrafts;
import dastur.store.Neighbours;
import dastur.store.Organisation;
import dastur.store.Workflows;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import org.jspecify.annotations.Nullable;

/** What waits on a ticket, as one person sees it: what they are asked themselves or for whom they cover, and what others are. */
final class AskViews {
    /** What was raised on a CI in this time counts as lately. */
    static final Duration RECENT = Duration.ofDays(30);

    private final InstantSource clock;
    private final CommandService commands;
    private final FormDrafts drafts;
    private final Neighbours neighbours;
    private final Organisation organisation;
    private final Workflows workflows;

    AskViews(
            InstantSource clock,
            CommandService commands,
            FormDrafts drafts,
            Neighbours neighbours,
            Organisation organisation,
            Workflows workflows) {
        this.clock = clock;
        this.commands = commands;
        this.drafts = drafts;
        this.neighbours = neighbours;
        this.organisation = organisation;
        this.workflows = workflows;
    }

    List<Ask> of(Case c, Person person) {
        List<Ask> asks = new ArrayList<>();
        List<Cover> covers = organisation.coveredBy(person.id(), clock.instant());
        for (Run run : c.open().values()) {
            for (Visit visit : run.open().values()) {
                covered(c, run, visit, covers)
                        .filter(x ->
                                ask(c, run, visit, person).filter(Ask::mine).isEmpty())
                        .or(() -> ask(c, run, visit, person))
                        .ifPresent(asks::add);
            }
        }
        return asks;
    }

    Instant now() {
        return clock.instant();
    }

    /** What a person has done a moment ago and may still take back. */
    List<VisitId> mayTakeBack(Case c, Person person) {
        return Engine.mayTakeBack(c, person.id(), clock.instant());
    }

    /** What is asked of one of those for whom the viewer acts. */
    private Optional<Ask> covered(Case c, Run run, Visit visit, List<Cover> covers) {
        return covers.stream()
                .flatMap(cover -> organisation.person(cover.person()).stream()
                        .flatMap(p -> ask(c, run, visit, p).stream())
                        .filter(a -> a.mine() && Covering.takesOver(cover, visit.waiting()))
                        .map(a -> a.coveredFor(cover.person().value())))
                .findFirst();
    }

    private Optional<Ask> ask(Case c, Run run, Visit visit, Person person) {
        boolean seesAll = Right.SEE.of(person);
        String name = stepName(run, visit);
        if (visit.stall() != null) {
            boolean may = Right.DESIGN.of(person) || run.owner().equals(person.id());
            Asked stalled = Asked.of("stalled", name, may).because(stall(run, visit));
            return seesAll ? Optional.of(ask(run, visit, stalled)) : Optional.empty();
        }
        Optional<Asked> asked =
                switch (visit.waiting()) {
                    case OpenTask t -> Optional.of(task(visit, t, person));
                    case Votes v ->
                        Optional.of(Asked.of(
                                        "approval",
                                        v.name(),
                                        v.turn().contains(person.id())
                                                && !v.cast().containsKey(person.id()))
                                .due(v.due())
                                .saying(v.question())
                                .approval(approval(c, run, v)));
                    case Review r ->
                        Optional.of(Asked.of("review", r.name(), isOneOf(person.id(), r.to()))
                                .review(new Views.ReviewAsk(r.to(), r.rules(), r.verdicts())));
                    case OpenCallIn in ->
                        Optional.of(Asked.of(
                                        "call-in",
                                        in.name(),
                                        in.asked().contains(person.id())
                                                && !in.cannot().contains(person.id()))
                                .due(in.until())
                                .saying(in.message())
                                .callIn(new Views.CallInAsk(
                                        in.asked().stream().map(PersonId::value).toList(),
                                        in.cannot().stream()
                                                .map(PersonId::value)
                                                .toList())));
                    case CallUnderWay w -> Optional.of(Asked.of("machine", name, false));
                    case Judging j ->
                        Optional.of(Asked.of("wait", name, false).due(j.next()).saying("It is judged again."));
                    case Moment m -> Optional.of(Asked.of("wait", name, false).due(m.until()));
                    case ForCondition f ->
                        Optional.of(Asked.of("wait", name, false).due(f.until()).saying("Until " + f.condition()));
                    case ForSignal f ->
                        Optional.of(Asked.of("wait", name, false)
                                .due(f.until())
                                .saying("For the signal " + f.signal() + (f.key() == null ? "" : " of " + f.key())));
                    case ForReply f ->
                        Optional.of(Asked.of("wait", name, false).due(f.until()).saying("For a reply"));
                    case Waiting.Sent s ->
                        Optional.of(Asked.of("wait", name, false)
                                .saying("For '" + s.name() + "' to begin on another ticket"));
                    case Waiting.Called called
                    when !called.run().ticket().equals(c.id()) ->
                        Optional.of(Asked.of("wait", name, false)
                                .saying("For " + called.run().ticket() + ", where another workflow is at it"));
                    case Waiting.Called called -> Optional.empty();
                    case Waiting.Lines lines -> Optional.empty();
                    case Waiting.Delivery w -> Optional.empty();
                    case Waiting.Help h -> Optional.empty();
                    case Waiting.InRoom own -> Optional.of(own(own, name, person));
                };
        return asked.filter(a -> seesAll || a.mine()).map(a -> ask(run, visit, a));
    }

    /** What a kind of step asks that has no card of its own. */
    private Asked own(Waiting.InRoom waiting, String name, Person person) {
        return waiting.asks()
                .map(a -> Asked.of(a.kind(), a.name(), isOneOf(person.id(), a.to()))
                        .due(a.due())
                        .saying(waiting.words()))
                .orElse(Asked.of("wait", name, false));
    }

    private Asked task(Visit visit, OpenTask t, Person person) {
        boolean offered = isOneOf(person.id(), t.to());
        boolean oversees = !offered && t.overseers() != null && isOneOf(person.id(), t.overseers());
        return Asked.of("task", t.name(), offered || oversees)
                .overseeing(oversees)
                .due(t.due())
                .saying(t.instructions())
                .task(new TaskAsk(
                        t.to(),
                        t.overseers(),
                        t.claimedBy() == null ? null : t.claimedBy().value(),
                        t.outcomes(),
                        t.form(),
                        t.mayLeaveOut(),
                        t.form().isEmpty()
                                ? Map.of()
                                : drafts.of(visit.id(), person.id()).orElse(Map.of())));
    }

    /** What is asked, put together part by part. */
    private record Asked(
            String kind,
            String name,
            boolean mine,
            boolean oversees,
            @Nullable Instant dueAt,
            @Nullable String text,
            @Nullable TaskAsk taskAsk,
            @Nullable ApprovalAsk approvalAsk,
            Views.@Nullable ReviewAsk reviewAsk,
            Views.@Nullable CallInAsk callInAsk,
            @Nullable StallView stall) {
        static Asked of(String kind, String name, boolean mine) {
            return new Asked(kind, name, mine, false, null, null, null, null, null, null, null);
        }

        Asked overseeing(boolean yes) {
            return new Asked(kind, name, mine, yes, dueAt, text, taskAsk, approvalAsk, reviewAsk, callInAsk, stall);
        }

        Asked due(@Nullable Instant at) {
            return new Asked(kind, name, mine, oversees, at, text, taskAsk, approvalAsk, reviewAsk, callInAsk, stall);
        }

        Asked saying(@Nullable String words) {
            return new Asked(
                    kind, name, mine, oversees, dueAt, words, taskAsk, approvalAsk, reviewAsk, callInAsk, stall);
        }

        Asked task(TaskAsk ask) {
            return new Asked(kind, name, mine, oversees, dueAt, text, ask, approvalAsk, reviewAsk, callInAsk, stall);
        }

        Asked approval(ApprovalAsk ask) {
            return new Asked(kind, name, mine, oversees, dueAt, text, taskAsk, ask, reviewAsk, callInAsk, stall);
        }

        Asked review(Views.ReviewAsk ask) {
            return new Asked(kind, name, mine, oversees, dueAt, text, taskAsk, approvalAsk, ask, callInAsk, stall);
        }

        Asked callIn(Views.CallInAsk ask) {
            return new Asked(kind, name, mine, oversees, dueAt, text, taskAsk, approvalAsk, reviewAsk, ask, stall);
        }

        Asked because(StallView why) {
            return new Asked(kind, name, mine, oversees, dueAt, text, taskAsk, approvalAsk, reviewAsk, callInAsk, why);
        }
    }

    private Ask ask(Run run, Visit visit, Asked asked) {
        boolean quiet = asked.kind().equals("machine") || asked.kind().equals("wait");
        List<Next> next = quiet
                ? List.of()
                : Engine.alarms(visit, commands.upSince()).stream()
                        .map(a -> new Next(a.due(), a.kind().word(), a.deed()))
                        .toList();
        return new Ask(
                visit.id().value(),
                run.id().value(),
                run.name(),
                visit.step().value(),
                asked.kind(),
                asked.name(),
                run.itemAround(visit).map(AskViews::itemWord).orElse(null),
                asked.mine(),
                asked.oversees(),
                null,
                run.heldSince(),
                visit.openedAt(),
                asked.dueAt(),
                asked.text(),
                asked.taskAsk(),
                asked.approvalAsk(),
                asked.reviewAsk(),
                asked.callInAsk(),
                asked.stall(),
                next);
    }

    /** An item in a word or two: a text itself, or the first text in it. */
    private static String itemWord(Object item) {
        Object word = item instanceof Map<?, ?> map
                ? map.values().stream()
                        .filter(String.class::isInstance)
                        .findFirst()
                        .map(Object.class::cast)
                        .orElse(item)
                : item;
        return dastur.core.json.Texts.clip(String.valueOf(word), 60);
    }

    private String stepName(Run run, Visit visit) {
        return workflows
                .version(run.workflow(), run.version())
                .flatMap(v -> v.find(visit.step()))
                .map(s -> s.name())
                .orElse(visit.step().value());
    }

    private boolean isOneOf(PersonId person, Assigned assigned) {
        return Covering.isOneOf(organisation, person, assigned);
    }

    /** What a decision is about, as it was when people were asked. */
    List<Views.Shown> shown(Votes v) {
        FieldCatalogue fields = organisation.fields();
        return v.shown().stream()
                .map(path ->
                        new Views.Shown(path, label(path, fields), v.values().get(path)))
                .toList();
    }

    private ApprovalAsk approval(Case c, Run run, Votes v) {
        Neighbours.Neighbourhood around = c.text("ci")
                .map(ci ->
                        neighbours.around(new CiId(ci), c.id(), clock.instant().minus(RECENT)))
                .orElse(Neighbours.Neighbourhood.NONE);
        List<Views.Shown> shown = shown(v);
        Map<String, Boolean> cast = new TreeMap<>();
        v.cast().forEach((who, yes) -> cast.put(who.value(), yes));
        return new ApprovalAsk(
                v.round(),
                v.digest(),
                v.setsOff(),
                v.rule(),
                v.needed(),
                v.electorate().stream().map(PersonId::value).toList(),
                v.excluded().stream().map(PersonId::value).toList(),
                cast,
                shown,
                v.commentOnDecline(),
                v.terms().commentAlways(),
                v.terms().mayAddConditions(),
                v.turn().stream().map(PersonId::value).toList(),
                v.terms().veto().stream().map(PersonId::value).toList(),
                conditions(v),
                v.askedBack() != null,
                around.openOnCi(),
                around.recentOnCi(),
                around.others(),
                neighbours.endings(run.workflow(), run.id()));
    }

    private static Map<String, String> conditions(Votes v) {
        Map<String, String> conditions = new TreeMap<>();
        v.conditions().forEach((who, condition) -> conditions.put(who.value(), condition));
        return conditions;
    }

    private static String label(String path, FieldCatalogue fields) {
        String name = path.substring(path.lastIndexOf('.') + 1);
        if (path.startsWith("ticket.")) {
            return fields.ticketField(name).map(f -> f.label()).orElse(name);
        }
        return path.startsWith("ci.")
                ? "CI: " + fields.ciField(name).map(f -> f.label()).orElse(name)
                : name;
    }

    private StallView stall(Run run, Visit visit) {
        Visit.Stall stall = visit.stall();
        boolean unsure = visit.waiting() instanceof CallUnderWay w && w.unsure();
        boolean came = visit.waiting() instanceof CallUnderWay c && c.came() != null;
        List<Intervention> remedies = came
                ? List.of(Intervention.TAKE_EXIT, Intervention.STOP_RUN, Intervention.STOP_AND_PUT_BACK)
                : unsure
                        ? List.of(
                                Intervention.HAPPENED,
                                Intervention.DID_NOT_HAPPEN,
                                Intervention.TAKE_EXIT,
                                Intervention.STOP_RUN)
                        : stall.code().equals(Visit.Stall.WITHHELD)
                                ? List.of(Intervention.TAKE_EXIT, Intervention.RETRY, Intervention.STOP_RUN)
                                : stall.code().equals("approval outdated")
                                        ? List.of(
                                                Intervention.ASK_AGAIN,
                                                Intervention.GO_ON,
                                                Intervention.RETRY,
                                                Intervention.STOP_RUN)
                                        : List.of(
                                                Intervention.RETRY,
                                                Intervention.TAKE_EXIT,
                                                Intervention.STOP_RUN,
                                                Intervention.STOP_AND_PUT_BACK);
        Optional<Step> step = workflows.version(run.workflow(), run.version()).flatMap(v -> v.find(visit.step()));
        if (remedies.contains(Intervention.RETRY)
                && !stall.code().equals("approval outdated")
                && CallRules.takesAnew(visit)
                && step.filter(Acting.class::isInstance).isPresent()) {
            remedies = new ArrayList<>(remedies);
            remedies.add(remedies.indexOf(Intervention.RETRY) + 1, Intervention.RETRY_ANEW);
        }
        List<String> exits = step.map(
                        s -> visit.putsBack() == null ? List.copyOf(s.ways().keySet()) : List.of("left as it is"))
                .orElse(List.of());
        return new StallView(stall.code(), stall.why(), remedies, exits, visit.waiting() instanceof CallUnderWay);
    }
}
