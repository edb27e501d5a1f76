package dastur.core.run;

import dastur.core.json.Texts;
import dastur.core.partner.PartnerKey;
import dastur.core.people.Group;
import dastur.core.people.GroupId;
import dastur.core.people.PersonId;
import dastur.core.run.Event.DifferenceSettled.Way;
import dastur.core.ticket.Service;
import dastur.core.ticket.ServiceId;
import dastur.core.ticket.TicketKind;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import org.jspecify.annotations.Nullable;

/** What partners and people say on a ticket that is followed at a partner's desk (I16). */
final class AtPartners {
    /** More partners than that have nothing to do with one matter. */
    private static final int MOST = 10;

    private final Deciding d;

    AtPartners(Deciding d) {
        this.d = d;
    }

    private Optional<AtPartner> at(PartnerKey partner) {
        return Optional.ofNullable(d.now().partners().get(partner.value()));
    }

    Optional<Refusal> join(Command.JoinPartner c) {
        Optional<AtPartner> before = at(c.partner());
        if (before.isPresent() && !before.get().over()) {
            return before.get().id().equals(c.id())
                    ? Optional.empty()
                    : Optional.of(Refusal.invalid(
                            "id", "It is followed there as '" + before.get().id() + "' already."));
        }
        if (before.isEmpty() && d.now().partners().size() >= MOST) {
            return Optional.of(Refusal.invalid("partner", "A ticket is followed at " + MOST + " partners at most."));
        }
        d.emitTicket(new Event.PartnerJoined(c.partner(), c.id(), c.link(), c.theirs()));
        return Optional.empty();
    }

    /** Raises one of ours for one of theirs. What cannot be taken over stands on it to be settled; nobody is told of it now. */
    Optional<Refusal> takeOver(Command.TakeOver c) {
        Optional<Refusal> refused =
                new TicketRules(d).raise(new Command.RaiseTicket(TicketKind.INCIDENT, c.fields(), null));
        if (refused.isPresent()) {
            return refused;
        }
        PartnerKey partner = c.join().partner();
        join(c.join());
        List<Command.Disagreement> differences = take(c.takes());
        new TreeMap<>(c.unknown())
                .forEach((field, word) -> differences.add(new Command.Disagreement(
                        field, ours(field), word, null, "Their word '" + word + "' means nothing here.")));
        differences.forEach(x -> ask(partner, x));
        return Optional.empty();
    }

    private void ask(PartnerKey partner, Command.Disagreement x) {
        d.emitTicket(new Event.PartnerDiffers(
                partner, x.field(), label(x.field()), asked(), x.ours(), x.word(), x.theirs(), x.why()));
    }

    private @Nullable String ours(String field) {
        Object value = d.now().fields().get(field);
        return value == null ? null : value.toString();
    }

    Optional<Refusal> leave(Command.LeavePartner c) {
        if (at(c.partner()).filter(p -> !p.over()).isPresent()) {
            d.emitTicket(new Event.PartnerLeft(c.partner(), c.why()));
            tell("No longer followed: " + title(), c.why(), asked());
        }
        return Optional.empty();
    }

    private String title() {
        return d.now().text("title").orElse("");
    }

    /** Takes over what they have changed. What our own rules refuse goes to a person, like what both have changed. */
    Optional<Refusal> hear(Command.HearPartner c) {
        Optional<AtPartner> at = at(c.partner()).filter(p -> !p.over());
        if (at.isEmpty()) {
            return Optional.of(new Refusal(Refusal.Code.NOT_FOUND, "It is not followed there.", "partner"));
        }
        Map<String, Command.Disagreement> differences = new TreeMap<>();
        c.differences().forEach(x -> differences.put(x.field(), x));
        if (!TicketKind.ended(d.now().state())) {
            take(c.takes()).forEach(x -> differences.put(x.field(), x));
        }
        settle(c.partner(), differences);
        return Optional.empty();
    }

    Optional<Refusal> said(Command.HearFromPartner c) {
        if (at(c.partner()).isEmpty()) {
            return Optional.of(new Refusal(Refusal.Code.NOT_FOUND, "It is not followed there.", "partner"));
        }
        d.emitTicket(new Event.PartnerSaid(c.partner(), c.comment(), c.by(), c.text()));
        return Optional.empty();
    }

    /** All together, as they came: closing may need what came with it. Where that is refused, each by itself. @return what is refused */
    private List<Command.Disagreement> take(Map<String, Command.Taken> takes) {
        Map<String, Object> values = new TreeMap<>();
        takes.forEach((field, take) -> values.put(field, take.value()));
        if (values.isEmpty() || edit(values).isEmpty()) {
            return new ArrayList<>();
        }
        List<Command.Disagreement> refused = new ArrayList<>();
        takes.forEach((field, take) -> edit(Map.of(field, take.value()))
                .ifPresent(r -> refused.add(
                        new Command.Disagreement(field, ours(field), take.word(), take.value(), r.message()))));
        return refused;
    }

    /** What they say of impact or urgency is theirs to say: the priority that follows needs no reason of ours. */
    private Optional<Refusal> edit(Map<String, Object> values) {
        return new TicketRules(d).edit(new Command.EditTicket(values, "The partner has changed it."));
    }

    /** Asks what was not asked yet, and no longer what has settled itself. */
    private void settle(PartnerKey partner, Map<String, Command.Disagreement> now) {
        AtPartner at = at(partner).orElseThrow();
        if (TicketKind.ended(d.now().state())) {
            now.clear();
        }
        for (String field : List.copyOf(at.differences().keySet())) {
            if (!now.containsKey(field)) {
                d.emitTicket(new Event.DifferenceSettled(partner, field, Way.GONE, null, null));
            }
        }
        List<Command.Disagreement> fresh = now.values().stream()
                .filter(x -> !isAsked(at.differences().get(x.field()), x))
                .toList();
        for (Command.Disagreement x : fresh) {
            ask(partner, x);
        }
        if (!fresh.isEmpty()) {
            StringBuilder text = new StringBuilder();
            fresh.forEach(x -> text.append(label(x.field()))
                    .append(": we say ")
                    .append(x.ours() == null ? "nothing" : x.ours())
                    .append(", they say ")
                    .append(x.word())
                    .append(". ")
                    .append(x.why())
                    .append('\n'));
            tell("They see it otherwise: " + title(), text.toString(), asked());
        }
    }

    private static boolean isAsked(AtPartner.@Nullable Difference asked, Command.Disagreement now) {
        return asked != null
                && Objects.equals(asked.ours(), now.ours())
                && Objects.equals(asked.word(), now.word())
                && asked.why().equals(now.why());
    }

    private String label(String field) {
        return d.lookups().fields().ticketField(field).map(f -> f.label()).orElse(field);
    }

    /** Whoever has the ticket says what counts: its group and assignee, else the group of its service. */
    private Assigned asked() {
        List<PersonId> people =
                d.now().text("assignee").map(PersonId::new).stream().toList();
        Optional<GroupId> group = d.now().text("group").map(GroupId::new);
        Optional<GroupId> owner = d.now()
                .text("service")
                .flatMap(s -> d.lookups().service(new ServiceId(s)))
                .map(Service::owner);
        return new Assigned(
                group.or(() -> people.isEmpty() ? owner : Optional.empty()).stream()
                        .toList(),
                people);
    }

    private void tell(String subject, String text, Assigned asked) {
        Set<PersonId> to = new LinkedHashSet<>(asked.people());
        if (to.isEmpty()) {
            asked.groups().forEach(g -> d.lookups().group(g).map(Group::members).ifPresent(to::addAll));
        }
        new Deliveries(d)
                .queue(
                        null,
                        null,
                        null,
                        d.actor,
                        "notice",
                        new ArrayList<>(to),
                        new Wanted(d).subject(subject),
                        d.now().id() + "\n\n" + text);
    }

    /** What of ours reached them, or why it did not. */
    Optional<Refusal> told(Command.ToldPartner c) {
        if (at(c.partner()).isEmpty()) {
            return Optional.of(new Refusal(Refusal.Code.NOT_FOUND, "It is not followed there.", "partner"));
        }
        d.emitTicket(new Event.PartnerTold(c.partner(), c.entry(), c.values(), c.problem()));
        return Optional.empty();
    }

    /** A person says something to the partner. */
    Optional<Refusal> say(Command.SayToPartner c) {
        if (at(c.partner()).filter(p -> !p.over()).isEmpty()) {
            return Optional.of(Refusal.invalid("partner", "This ticket is not followed at that partner's desk."));
        }
        if (Texts.blank(c.text())) {
            return Optional.of(Refusal.invalid("text", "Write something first."));
        }
        if (c.text().length() > Texts.MAX_TEXT || !Texts.keepable(c.text())) {
            return Optional.of(Refusal.invalid("text", "A note has at most " + Texts.MAX_TEXT + " characters."));
        }
        d.emitTicket(new Event.SaidToPartner(c.partner(), c.text()));
        return Optional.empty();
    }

    /** Somebody says what counts. What was shown to them must still be so. */
    Optional<Refusal> settle(Command.SettleDifference c) {
        AtPartner.Difference asked =
                at(c.partner()).map(p -> p.differences().get(c.field())).orElse(null);
        if (asked == null) {
            return Optional.of(new Refusal(
                    Refusal.Code.TOO_LATE, "Nothing is open about this field any more: it was settled.", "field"));
        }
        if (!Objects.equals(asked.word(), c.word()) || !Objects.equals(asked.ours(), c.ours())) {
            return Optional.of(new Refusal(
                    Refusal.Code.TOO_LATE,
                    "It has changed since you looked: we say " + said(asked.ours()) + ", they say " + said(asked.word())
                            + ". Say again what counts.",
                    "field"));
        }
        if (c.reason() != null && c.reason().length() > Texts.MAX_TEXT) {
            return Optional.of(Refusal.invalid("reason", "A reason has at most " + Texts.MAX_TEXT + " characters."));
        }
        String reason = Texts.blank(c.reason()) ? null : c.reason();
        if (c.takesTheirs()) {
            if (asked.theirs() == null) {
                return Optional.of(
                        Refusal.invalid(
                                "field",
                                "Their word '" + said(asked.word())
                                        + "' means nothing here. Keep ours, or have it put into the partner's table of words."));
            }
            Optional<Refusal> refused =
                    new TicketRules(d).edit(new Command.EditTicket(Map.of(c.field(), asked.theirs()), reason));
            if (refused.isPresent()) {
                return refused;
            }
        }
        d.emitTicket(new Event.DifferenceSettled(
                c.partner(), c.field(), c.takesTheirs() ? Way.THEIRS : Way.OURS, asked.word(), reason));
        return Optional.empty();
    }

    private static String said(@Nullable String value) {
        return value == null ? "nothing" : value;
    }

    // --- what follows from it

    static Case joined(Case c, Recorded r, Event.PartnerJoined e) {
        return with(
                c,
                new AtPartner(
                        e.partner(),
                        e.id(),
                        e.link(),
                        e.theirs(),
                        false,
                        r.at(),
                        null,
                        new TreeMap<>(),
                        new TreeMap<>()));
    }

    static Case differs(Case c, Recorded r, Event.PartnerDiffers e) {
        return on(
                c,
                e.partner(),
                p -> p.with(new AtPartner.Difference(
                        e.field(), e.label(), e.ours(), e.word(), e.theirs(), e.why(), e.asked(), r.at())));
    }

    static Case settled(Case c, Recorded r, Event.DifferenceSettled e) {
        AtPartner.Kept kept = e.way() == Way.OURS ? new AtPartner.Kept(e.word(), r.seq()) : null;
        return on(c, e.partner(), p -> p.without(e.field(), kept));
    }

    static Case left(Case c, Recorded r, Event.PartnerLeft e) {
        return on(c, e.partner(), p -> p.left(r.at(), e.why()));
    }

    /** Of a ticket that has ended nobody is asked anything more. */
    static Case ended(Case c) {
        if (c.partners().values().stream().allMatch(p -> p.differences().isEmpty())) {
            return c;
        }
        TreeMap<String, AtPartner> all = new TreeMap<>(c.partners());
        all.replaceAll((key, p) -> new AtPartner(
                p.partner(), p.id(), p.link(), p.theirs(), p.over(), p.since(), p.why(), new TreeMap<>(), p.kept()));
        return c.withPartners(all);
    }

    private static Case on(Case c, PartnerKey partner, java.util.function.UnaryOperator<AtPartner> edit) {
        AtPartner at = c.partners().get(partner.value());
        return at == null ? c : with(c, edit.apply(at));
    }

    private static Case with(Case c, AtPartner at) {
        TreeMap<String, AtPartner> all = new TreeMap<>(c.partners());
        all.put(at.partner().value(), at);
        return c.withPartners(all);
    }
}
