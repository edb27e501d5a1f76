package dastur.server.work;

import dastur.core.json.Texts;
import dastur.core.people.Actor;
import dastur.core.run.Command;
import dastur.core.run.VisitId;
import dastur.core.ticket.TicketId;
import dastur.core.workflow.ActionKey;
import dastur.server.work.CommandService.Outcome;
import dastur.store.Files;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.util.HexFormat;
import java.util.Optional;
import java.util.UUID;

/**
 * Attaches to a ticket what its calls leave behind: pictures as each is taken (M12), so that whoever is asked later sees what the machine
 * saw, also where the call never came to its end; and the whole of what a call said, where its record has room for the beginning
 * alone (M7).
 */
public final class CallFiles {
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
    Optional<String> log(TicketId ticket, VisitId visit, String action, String name, String text) {
        return attach(
                ticket,
                visit,
                action,
                Texts.clip(name, 150) + ", what it said.txt",
                "text/plain",
                text.getBytes(StandardCharsets.UTF_8));
    }

    private Optional<String> attach(
            TicketId ticket, VisitId visit, String action, String name, String type, byte[] bytes) {
        String hash = sha256(bytes);
        files.keep(hash, bytes);
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

    private static String sha256(byte[] bytes) {
        try {
            return HexFormat.of().formatHex(MessageDigest.getInstance("SHA-256").digest(bytes));
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException(e);
        }
    }
}
