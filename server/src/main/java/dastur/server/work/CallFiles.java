package dastur.server.work;

import dastur.core.json.Texts;
import dastur.core.people.Actor;
import dastur.core.run.Command;
import dastur.core.run.VisitId;
import dastur.core.ticket.TicketId;
import dastur.core.workflow.ActionKey;
import dastur.server.work.CommandService.Outcome;
import dastur.store.Files;
import java.util.Optional;
import java.util.UUID;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Attaches to a ticket what its calls leave behind: pictures as each is taken (M12), so that whoever is asked later sees what the machine
 * saw, also where the call never came to its end; and the whole of what a call said, where its record has room for the beginning
 * alone (M7).
 */
public final class CallFiles {
    private static final Logger LOG = LoggerFactory.getLogger(CallFiles.class);

    private final Files files;
    private final CommandService commands;

    public CallFiles(Files files, CommandService commands) {
        this.files = files;
        this.commands = commands;
    }

    /** @return why it could not be attached; empty when it was */
    Optional<String> picture(TicketId ticket, VisitId visit, String action, String name, byte[] png) {
        return attach(ticket, visit, action, name + ".png", "image/png", png);
    }

    /** The same. */
    Optional<String> log(TicketId ticket, VisitId visit, String action, String name, byte[] text) {
        return attach(ticket, visit, action, Texts.clip(name, 150) + ", what it said.txt", "text/plain", text);
    }

    /** A file that cannot be kept is told, and changes nothing about what became of the call. */
    private Optional<String> attach(
            TicketId ticket, VisitId visit, String action, String name, String type, byte[] bytes) {
        try {
            return attached(ticket, visit, action, name, type, bytes);
        } catch (RuntimeException e) {
            LOG.warn("'{}' could not be attached to {}", name, ticket, e);
            return Optional.of("it could not be written.");
        }
    }

    private Optional<String> attached(
            TicketId ticket, VisitId visit, String action, String name, String type, byte[] bytes) {
        String hash = files.keep(bytes);
        boolean attached = false;
        try {
            Outcome outcome = commands.handleRepeatable(
                    ticket,
                    "file." + UUID.randomUUID(),
                    new Actor.OfAction(new ActionKey(action)),
                    new Command.AttachFile(visit, name, type, bytes.length, hash, false));
            attached = outcome instanceof Outcome.Done;
            return outcome instanceof Outcome.Refused refused
                    ? Optional.of(refused.refusal().message())
                    : Optional.empty();
        } finally {
            if (!attached) {
                files.dropUnused(hash);
            }
        }
    }
}
