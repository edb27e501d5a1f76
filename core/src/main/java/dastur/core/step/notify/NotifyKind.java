package dastur.core.step.notify;

import dastur.core.bpmn.Drawing;
import dastur.core.expression.Vocabulary;
import dastur.core.expression.Yield;
import dastur.core.finding.Inspection;
import dastur.core.finding.Reads;
import dastur.core.notation.Begun;
import dastur.core.notation.Out;
import dastur.core.notation.Phrases;
import dastur.core.notation.Scanner;
import dastur.core.people.Party;
import dastur.core.rehearsal.Answer;
import dastur.core.rehearsal.Played;
import dastur.core.rehearsal.Rehearsing;
import dastur.core.run.Here;
import dastur.core.run.Reaches;
import dastur.core.run.Visit;
import dastur.core.run.VisitId;
import dastur.core.step.Room;
import dastur.core.ticket.FieldType;
import dastur.core.workflow.Brings;
import dastur.core.workflow.Facts;
import dastur.core.workflow.StepId;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** People are told something, each as they want to be reached, or in the ticket's room (N61, N63). */
public final class NotifyKind implements Room<Notify>, Reaches<Notify> {
    @Override
    public String word() {
        return "notify";
    }

    @Override
    public Class<Notify> model() {
        return Notify.class;
    }

    @Override
    public List<Brings> brings() {
        return List.of();
    }

    @Override
    public Facts facts(Notify step) {
        return Facts.PLAIN.atOnce(!step.ways().containsKey("undelivered"));
    }

    @Override
    public void yields(Notify step, Vocabulary.Declared declared, Yield into) {
        // Whether all were reached is how it ended.
    }

    // --- runs

    @Override
    public void open(Notify step, VisitId visit, boolean guarded, Here here) {
        new Telling(here).tell(visit, step);
    }

    @Override
    public Optional<String> reaches(Notify step, Here here) {
        return Optional.ofNullable(step.room()).map(room -> "say something in a room of the chat");
    }

    @Override
    public List<Answer> options(Notify step, Visit visit, Rehearsing in) {
        return List.of();
    }

    @Override
    public Played give(Notify step, Visit visit, Answer answer, Rehearsing in) {
        return in.clockOnly(visit);
    }

    // --- findings

    @Override
    public void inspect(Notify s, Inspection in) {
        if (s.to().isEmpty() && s.room() == null) {
            in.blocks("nobody", s, "to", "'" + s.name() + "' tells nobody.");
        }
        s.to().forEach(p -> in.somebody(s, "to", p));
        in.text(s, "subject", s.subject());
        in.text(s, "text", s.text());
        if (s.room() != null) {
            in.text(s, "room", s.room().name());
            if (s.room().name().isBlank()) {
                in.blocks("empty message", s, "room", "The room of '" + s.name() + "' needs a name.");
            }
        }
        if (s.invites() != null) {
            inspect(s, s.invites(), in);
        }
        if (s.subject().isBlank() || s.text().isBlank()) {
            in.blocks("empty message", s, "text", "'" + s.name() + "' needs a subject and a text.");
        }
    }

    private static void inspect(Notify s, Invites invites, Inspection in) {
        if (s.room() != null) {
            in.blocks(
                    "two ways",
                    s,
                    "invites",
                    "'" + s.name() + "' invites by mail; it cannot be said in a room instead.");
        }
        if (invites.off() == null) {
            in.typed(s, "invites", "The begin of what '" + s.name() + "' invites to", invites.from(), FieldType.TIME);
            in.typed(s, "invites", "The end of what '" + s.name() + "' invites to", invites.until(), FieldType.TIME);
            in.text(s, "invites", invites.place());
        } else if (in.version()
                .find(invites.off())
                .filter(o -> o instanceof Notify n
                        && n.invites() != null
                        && n.invites().off() == null)
                .isEmpty()) {
            in.blocks(
                    "no invitation",
                    s,
                    "invites",
                    "'" + s.name() + "' calls off '" + invites.off() + "', which is no step that invites.");
        }
    }

    @Override
    public void reads(Notify s, Reads into) {
        into.text(s.room() == null ? null : s.room().name());
        if (s.invites() != null) {
            into.expression(s.invites().from());
            into.expression(s.invites().until());
            into.text(s.invites().place());
        }
        into.text(s.subject());
        into.text(s.text());
        s.to().forEach(into::party);
    }

    // --- text

    @Override
    public List<String> heads() {
        return List.of("tell");
    }

    /** What is read of it. */
    private static final class Read {
        private @Nullable String text;
        private @Nullable TicketRoom room;
        private @Nullable Invites invites;
    }

    /** {@code invites from A until B at "place"}, {@code calls off invite}. */
    private static Invites inviting(Scanner in) {
        in.expect("from");
        String from = in.until("When it begins", List.of(" until ")).strip();
        in.expect("until");
        String until = in.until("When it ends", List.of(" at \"")).strip();
        return new Invites(from, until, in.take("at") ? in.quoted("The place") : null, null);
    }

    @Override
    public Begun begin(String head, Scanner in) {
        Read read = new Read();
        List<Party> to = Phrases.parties(in);
        boolean ignored = in.take("by mail");
        String subject = in.quoted("The subject of the message");
        read.text = in.quotedIfThere().orElse(null);
        String name = in.take("as") ? in.quoted("The step's name") : "Tell: " + subject;
        return new Begun(
                        name,
                        (id, ways, expected) -> new Notify(
                                id,
                                name,
                                to,
                                subject,
                                read.text == null ? "" : read.text,
                                read.room,
                                read.invites,
                                ways,
                                expected))
                .line("say", line -> read.text = line.text())
                .line("invites", line -> read.invites = inviting(line.in()))
                .line("calls off", line -> {
                    read.invites =
                            new Invites(null, null, null, new StepId(line.in().id("A step that invites")));
                })
                .line("in the room", line -> {
                    String room = line.in().quoted("The room's name");
                    read.room = new TicketRoom(room, line.in().take("keeping all that is said"));
                });
    }

    @Override
    public String sentence(Notify s) {
        return "tell " + Phrases.parties(s.to()) + " " + Phrases.quoted(s.subject()) + " as "
                + Phrases.quoted(s.name());
    }

    @Override
    public void settings(Notify s, Out out) {
        out.text("say", s.text().isEmpty() ? null : s.text());
        Invites i = s.invites();
        if (i != null) {
            out.line(
                    i.off() != null
                            ? "calls off " + i.off()
                            : "invites from " + i.from() + " until " + i.until()
                                    + (i.place() == null ? "" : " at " + Phrases.quoted(i.place())));
        }
        if (s.room() != null) {
            out.line("in the room " + Phrases.quoted(s.room().name())
                    + (s.room().keepsAll() ? " keeping all that is said" : ""));
        }
    }

    // --- diagram

    @Override
    public Drawing drawing(Notify s) {
        return Drawing.of("sendTask").saying(s.subject() + "\n" + s.text());
    }

    @Override
    public String usualExit() {
        return "sent";
    }

    @Override
    public Map<String, String> borderExits() {
        return Map.of("errorEventDefinition", "undelivered");
    }
}
