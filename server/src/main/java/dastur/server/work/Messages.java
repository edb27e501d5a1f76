package dastur.server.work;

import dastur.connectors.MailConnector;
import dastur.connectors.MatrixConnector;
import dastur.core.people.Actor;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.run.Command;
import dastur.core.run.Visit;
import dastur.core.step.approval.Votes;
import dastur.server.auth.DecisionLinks;
import dastur.server.chat.Choices;
import dastur.store.Chats;
import dastur.store.MailAsks;
import dastur.store.Outbox;
import dastur.store.Outbox.Taken;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZonedDateTime;
import java.util.ArrayList;
import java.util.Date;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Carries messages to people as they want to be reached (N60): by chat or mail, at once or with the day's digest, and not
 * in their quiet hours unless it is urgent.
 */
final class Messages {
    private static final Logger LOG = LoggerFactory.getLogger(Messages.class);
    /** After this long a message is given up and shown as failed (D14). */
    private static final Duration GIVEN_UP_AFTER = Duration.ofMinutes(15);
    /** Purposes of messages that pierce quiet hours and wait for no digest. */
    private static final Set<String> URGENT = Set.of("decision", "call-in", "escalation");

    /** Purposes of messages about a decision that whoever may decide can decide by right away. */
    private static final Set<String> REPEATS_THE_QUESTION = Set.of("decision", "reminder", "escalation");

    private static final Duration LINK_LASTS = Duration.ofDays(7);

    private final Workers.Uses means;
    private final MessageFoot foot;

    Messages(Workers.Uses means) {
        this.means = means;
        this.foot = new MessageFoot(means);
    }

    /** What is sent together: what waits for the same person's digest; all else one by one. */
    List<List<Taken>> together(List<Taken> taken) {
        List<List<Taken>> all = new ArrayList<>();
        Map<PersonId, List<Taken>> digests = new LinkedHashMap<>();
        for (Taken row : taken) {
            PersonId person = row.mail().person();
            if (isForDigest(row)) {
                digests.computeIfAbsent(person, p -> new ArrayList<>()).add(row);
            } else {
                all.add(List.of(row));
            }
        }
        all.addAll(digests.values());
        return all;
    }

    private boolean isForDigest(Taken row) {
        Chats.Reach reach = means.chats().reach(row.mail().person());
        return !URGENT.contains(row.purpose())
                && row.mail().meeting() == null
                && reach.digestAt() != null
                && !isOver(row)
                && later(reach, row).isEmpty()
                && means.person()
                        .apply(row.mail().person())
                        .filter(p -> !p.mail().isBlank())
                        .isPresent();
    }

    void carry(List<Taken> rows) {
        if (rows.size() == 1) {
            carry(rows.getFirst());
        } else {
            digest(rows);
        }
    }

    private void carry(Taken taken) {
        Outbox.MailPayload mail = taken.mail();
        if (isOver(taken)) {
            means.outbox().drop(taken);
            return;
        }
        Optional<Person> person = means.person().apply(mail.person());
        Chats.Reach reach = means.chats().reach(mail.person());
        boolean urgent = URGENT.contains(taken.purpose());
        Optional<Instant> later = urgent ? Optional.empty() : later(reach, taken);
        if (later.isPresent()) {
            means.outbox().putOff(taken, later.get());
            return;
        }
        // Somebody is to come at once: whatever they look at first should tell them (N61).
        boolean everyWay = taken.purpose().equals("call-in");
        String said = null;
        // Calendars are reached by mail alone; whoever has none is told all the same.
        boolean inCalendar = mail.meeting() != null
                && person.filter(p -> !p.mail().isBlank()).isPresent();
        if (!inCalendar
                && means.chat().isUsed()
                && reach.chat() != null
                && (everyWay || (urgent ? reach.urgent() : reach.other()) == Chats.Channel.CHAT)) {
            try {
                said = "chat " + means.chat().send(taken, mail, foot.of(taken, reach.zone()), reach.chat());
            } catch (MatrixConnector.NotSent e) {
                LOG.info("chat failed, mail stands in: {}", e.getMessage());
            }
        }
        if (said != null && !everyWay) {
            report(taken, mail, true, said);
            return;
        }
        try {
            if (person.isEmpty() || person.get().mail().isBlank()) {
                report(taken, mail, said != null, said != null ? said : "There is no mail address.");
                return;
            }
            String id = means.mail()
                    .send(
                            new MailConnector.Mail(
                                    taken.id(),
                                    person.get().mail(),
                                    mail.subject(),
                                    mail.text().stripTrailing()
                                            + "\n"
                                            + foot.of(taken, reach.zone())
                                            + choices(taken, mail)
                                            + link(taken, mail),
                                    !means.hearsMail().getAsBoolean()
                                            ? null
                                            : means.threads().of(taken.id()),
                                    mail.meeting()),
                            Date.from(means.clock().instant()));
            report(taken, mail, true, said == null ? id : said + ", mail " + id);
        } catch (MailConnector.NotSent e) {
            if (said != null) {
                report(taken, mail, true, said);
            } else {
                failed(taken, e.getMessage());
            }
        }
    }

    private void failed(Taken taken, String why) {
        boolean givenUp =
                taken.createdAt().plus(GIVEN_UP_AFTER).isBefore(means.clock().instant());
        if (givenUp) {
            report(taken, taken.mail(), false, why);
        } else {
            means.outbox().later(taken, means.clock().instant().plus(pause(taken)));
        }
    }

    // --- rooms

    /** Says something in a ticket's room; tried again for a while, then the record says that it could not be. */
    void sayInRoom(Taken taken) {
        if (!means.chat().isUsed()) {
            roomFailed(taken, "There is no chat server.");
            return;
        }
        try {
            means.chat().rooms().say(taken);
            means.outbox().drop(taken);
        } catch (MatrixConnector.NotSent e) {
            if (taken.createdAt().plus(GIVEN_UP_AFTER).isBefore(means.clock().instant())) {
                roomFailed(taken, e.getMessage());
            } else {
                means.outbox().later(taken, means.clock().instant().plus(pause(taken)));
            }
        }
    }

    private void roomFailed(Taken taken, String why) {
        means.commands()
                .handle(
                        taken.ticket(),
                        "room-failed." + taken.id(),
                        new Actor.Outside("chat"),
                        new Command.RoomFailed(taken.room().message(), why));
        means.outbox().drop(taken);
    }

    private static Duration pause(Taken taken) {
        return Duration.ofSeconds(Math.min(240, 2L << Math.min(10, taken.tries())));
    }

    // --- what can wait

    /** Until when a message that is not urgent waits: for the end of quiet hours, or for the day's digest. */
    private Optional<Instant> later(Chats.Reach reach, Taken taken) {
        Instant now = means.clock().instant();
        Optional<Instant> digest = taken.mail().meeting() != null
                ? Optional.empty()
                : nextDigest(reach, taken.createdAt()).filter(d -> d.isAfter(now));
        return digest.isPresent() ? digest : quietUntil(reach, now);
    }

    /** When a person is next told all at once, at or after a moment; empty when they are told one by one. */
    static Optional<Instant> nextDigest(Chats.Reach reach, Instant from) {
        if (reach.digestAt() == null) {
            return Optional.empty();
        }
        LocalDate day = from.atZone(reach.zone()).toLocalDate();
        Instant today = ZonedDateTime.of(day, reach.digestAt(), reach.zone()).toInstant();
        return Optional.of(
                today.isBefore(from)
                        ? ZonedDateTime.of(day.plusDays(1), reach.digestAt(), reach.zone())
                                .toInstant()
                        : today);
    }

    /** Several messages to one person as one mail. */
    private void digest(List<Taken> rows) {
        Person person = means.person().apply(rows.getFirst().mail().person()).orElseThrow();
        StringBuilder text = new StringBuilder();
        rows.forEach(row -> text.append("— ")
                .append(row.mail().subject())
                .append('\n')
                .append(row.mail().text().strip())
                .append(foot.of(row, means.chats().reach(person.id()).zone()))
                .append('\n'));
        try {
            String id = means.mail()
                    .send(
                            new MailConnector.Mail(
                                    "digest-" + rows.getFirst().id(),
                                    person.mail(),
                                    rows.size() + " messages since yesterday",
                                    text.append("An answer to this mail reaches nobody; open the ticket to answer.\n")
                                            .toString()),
                            Date.from(means.clock().instant()));
            rows.forEach(row -> report(row, row.mail(), true, id));
        } catch (MailConnector.NotSent e) {
            rows.forEach(row -> failed(row, e.getMessage()));
        }
    }

    /** When a person's quiet hours end; empty when it is not quiet now. */
    static Optional<Instant> quietUntil(Chats.Reach reach, Instant now) {
        if (reach.quietFrom() == null
                || reach.quietUntil() == null
                || reach.quietFrom().equals(reach.quietUntil())) {
            return Optional.empty();
        }
        ZonedDateTime local = now.atZone(reach.zone());
        LocalTime time = local.toLocalTime();
        boolean overNight = reach.quietFrom().isAfter(reach.quietUntil());
        boolean after = !time.isBefore(reach.quietFrom());
        boolean before = time.isBefore(reach.quietUntil());
        if (overNight ? !after && !before : !(after && before)) {
            return Optional.empty();
        }
        LocalDate day = local.toLocalDate().plusDays(overNight && after ? 1 : 0);
        return Optional.of(
                ZonedDateTime.of(day, reach.quietUntil(), reach.zone()).toInstant());
    }

    /** Keeps what the mail is about before it goes out, and says how to answer it. */
    private String choices(Taken taken, Outbox.MailPayload mail) {
        if (!means.hearsMail().getAsBoolean()) {
            return "";
        }
        Optional<Visit> visit = Optional.ofNullable(taken.visit())
                .flatMap(v -> means.tickets().find(taken.ticket()).flatMap(c -> c.visit(v)));
        @Nullable Votes votes = visit.isPresent() && visit.get().waiting() instanceof Votes v ? v : null;
        means.asks()
                .keep(
                        new MailAsks.Asked(
                                taken.id(),
                                taken.ticket(),
                                taken.visit(),
                                mail.person(),
                                taken.purpose(),
                                votes == null ? 0 : votes.round(),
                                votes == null ? "" : votes.digest()),
                        means.clock().instant());
        return visit.map(v -> Choices.offered(v, taken.purpose(), mail.person(), "yes", "no") + "\n")
                .orElse("");
    }

    /** The one-time link of somebody who may still decide what the mail asks; it stands in the mail alone. */
    private String link(Taken taken, Outbox.MailPayload mail) {
        if (!REPEATS_THE_QUESTION.contains(taken.purpose()) || taken.visit() == null) {
            return "";
        }
        Optional<Visit> visit = means.tickets().find(taken.ticket()).flatMap(c -> c.visit(taken.visit()));
        if (visit.isEmpty()
                || !(visit.get().waiting() instanceof Votes votes)
                || votes.cast().containsKey(mail.person())
                || !votes.electorate().contains(mail.person())) {
            return "";
        }
        String token = means.links()
                .token(new DecisionLinks.Link(
                        taken.visit(),
                        votes.round(),
                        votes.digest(),
                        mail.person(),
                        means.clock().instant().plus(LINK_LASTS)));
        return "\nDecide here. The link is yours alone and lasts a week:\n"
                + means.address().get() + "/decide/" + token + "\n";
    }

    /** A reminder of something that was done meanwhile is not sent (D14). */
    private boolean isOver(Taken taken) {
        boolean urges = List.of("reminder", "escalation", "decision", "task").contains(taken.purpose());
        return urges
                && taken.visit() != null
                && means.tickets()
                        .find(taken.ticket())
                        .flatMap(c -> c.visit(taken.visit()))
                        .filter(v -> !isAskedAnew(v, taken))
                        .isEmpty();
    }

    /** What it shows has changed since, and the question went out anew: with its link the old values would be decided on. */
    private static boolean isAskedAnew(Visit visit, Taken taken) {
        return visit.waiting() instanceof Votes votes
                && votes.round() > 1
                && visit.since().isAfter(taken.createdAt());
    }

    private void report(Taken taken, Outbox.MailPayload mail, boolean delivered, String detail) {
        means.commands()
                .handleRepeatable(
                        taken.ticket(),
                        "mail." + taken.id(),
                        new Actor.Outside("mail"),
                        new Command.DeliveryResult(
                                taken.visit(), mail.message(), mail.person(), delivered, taken.tries(), detail));
    }
}
