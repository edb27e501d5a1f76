package dastur.core.run;

import dastur.core.json.Texts;
import dastur.core.json.Values;
import dastur.core.people.GroupId;
import dastur.core.ticket.Field;
import dastur.core.ticket.Service;
import dastur.core.ticket.ServiceId;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.WorkflowVersion;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/** What people start: by hand, or because a trigger proposes it and they say so (N30, I13). */
final class ByPeople {
    private final Deciding d;
    private final Starting starting;

    ByPeople(Deciding d) {
        this.d = d;
        this.starting = new Starting(d);
    }

    Optional<Refusal> byHand(Command.StartRun c) {
        Optional<WorkflowVersion> version =
                d.lookups().liveVersion(c.workflow()).flatMap(n -> d.lookups().version(c.workflow(), n));
        if (version.isEmpty()) {
            return Optional.of(new Refusal(
                    Refusal.Code.NOT_FOUND, "There is no published workflow '" + c.workflow() + "'.", "workflow"));
        }
        boolean offered = d.lookups().liveTriggers().stream()
                .anyMatch(t -> t.workflow().equals(c.workflow())
                        && t.trigger().on()
                        && t.trigger().when() instanceof Trigger.ByHand);
        if (!offered) {
            return Optional.of(
                    Refusal.notYours("'" + version.get().name() + "' is not offered to be started by hand."));
        }
        TicketKind kind = version.get().kind();
        if (kind != null && kind != d.now().kind()) {
            return Optional.of(Refusal.invalid(
                    "workflow", "'" + version.get().name() + "' is for tickets of kind " + kind.word() + "."));
        }
        Map<String, Object> inputs = Values.withoutBlank(c.inputs());
        Optional<Refusal> wrong = problemWith(d, version.get(), inputs);
        if (wrong.isEmpty()) {
            starting.start(version.get(), null, 0, null, inputs, d.actor);
        }
        return wrong;
    }

    /** Somebody answers what a trigger proposed. */
    Optional<Refusal> answer(Command.AnswerOffer c) {
        Case.Offer offer = d.now().offers().get(c.trigger().value());
        if (offer == null) {
            return Optional.of(
                    new Refusal(Refusal.Code.TOO_LATE, "Nothing is proposed here any more: it was answered.", null));
        }
        if (c.reason() != null && c.reason().length() > Texts.MAX_TEXT) {
            return Optional.of(Refusal.invalid("reason", "A reason has at most " + Texts.MAX_TEXT + " characters."));
        }
        Optional<WorkflowVersion> version = d.lookups()
                .liveVersion(offer.workflow())
                .flatMap(n -> d.lookups().version(offer.workflow(), n));
        Map<String, Object> inputs = Values.withoutBlank(c.inputs());
        if (c.start()) {
            if (version.isEmpty()) {
                return Optional.of(new Refusal(
                        Refusal.Code.NOT_FOUND, "'" + offer.name() + "' is no longer published.", "trigger"));
            }
            Optional<Refusal> wrong = problemWith(d, version.get(), inputs);
            if (wrong.isPresent()) {
                return wrong;
            }
        }
        d.emitTicket(new Event.StartAnswered(
                c.trigger(), offer.workflow(), offer.name(), c.start(), Texts.blank(c.reason()) ? null : c.reason()));
        if (c.start()) {
            starting.start(version.orElseThrow(), c.trigger(), 0, null, inputs, d.actor);
        }
        return Optional.empty();
    }

    /** Whoever has the ticket says whether it starts, else the group of its service, else the workflow's owner. */
    static Assigned answerers(Deciding d, WorkflowVersion version) {
        if (d.now().test() != null) {
            return Tests.instead(d.now().test());
        }
        Optional<GroupId> group = d.now().text("group").map(GroupId::new);
        Optional<GroupId> owner = d.now()
                .text("service")
                .flatMap(s -> d.lookups().service(new ServiceId(s)))
                .map(Service::owner);
        return group.or(() -> owner)
                .filter(g ->
                        d.lookups().group(g).filter(x -> !x.members().isEmpty()).isPresent())
                .map(g -> new Assigned(List.of(g), List.of()))
                .orElseGet(() -> new Assigned(List.of(), List.of(version.owner())));
    }

    /** What is wrong with values for a start form; empty where they can be given. */
    static Optional<Refusal> problemWith(Deciding d, WorkflowVersion version, Map<String, Object> inputs) {
        for (Field field : version.startForm()) {
            Object value = inputs.get(field.name());
            Optional<String> problem = new TicketRules(d).problemWith(field, value);
            if (problem.isPresent()) {
                return Optional.of(Refusal.invalid("inputs." + field.name(), problem.get()));
            }
        }
        return inputs.keySet().stream()
                .filter(name ->
                        version.startForm().stream().noneMatch(f -> f.name().equals(name)))
                .findFirst()
                .map(name -> Refusal.invalid(
                        "inputs." + Texts.clip(name, 40),
                        "'" + version.name() + "' asks for no '" + Texts.clip(name, 40) + "'."));
    }
}
