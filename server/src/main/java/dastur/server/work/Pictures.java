package dastur.server.work;

import dastur.core.people.Actor;
import dastur.core.run.Command;
import dastur.core.run.VisitId;
import dastur.core.ticket.TicketId;
import dastur.core.workflow.ActionKey;
import dastur.server.work.CommandService.Outcome;
import dastur.store.Files;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.util.HexFormat;
import java.util.Optional;
import java.util.UUID;

/**
 * Attaches the pictures that a call makes on its way to its ticket, each as it is taken (M12): whoever is asked about it later sees
 * what the machine saw, also where the call never came to its end.
 */
public final class Pictures {
    private final Files files;
    private final CommandService commands;

    public Pictures(Files files, CommandService commands) {
        this.files = files;
        this.commands = commands;
    }

    /** @return why it could not be attached; empty when it was */
    Optional<String> attach(TicketId ticket, VisitId visit, String action, String name, byte[] png) {
        String hash = sha256(png);
        files.keep(hash, png);
        boolean attached = false;
        try {
            Outcome outcome = commands.handleRepeatable(
                    ticket,
                    "picture." + UUID.randomUUID(),
                    new Actor.OfAction(new ActionKey(action)),
                    new Command.AttachFile(visit, name + ".png", "image/png", png.length, hash, false));
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
