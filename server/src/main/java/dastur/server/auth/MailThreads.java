package dastur.server.auth;

import java.util.List;
import java.util.Optional;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * The Message-IDs of mails that may be answered: signed, so that only who was sent the mail can name it. They stand in
 * the mail alone, never on a record.
 */
public final class MailThreads {
    private static final String KIND = "mail";
    private static final Pattern ID = Pattern.compile("<([A-Za-z0-9_.-]+)@[^>]+>");

    private final SignedToken signed;

    /** @param key at least 32 random bytes, kept outside the database */
    public MailThreads(byte[] key) {
        signed = new SignedToken(key);
    }

    /** The part of a Message-ID before the @, for a mail of this id. */
    public String of(String id) {
        return signed.of(List.of(KIND, id));
    }

    /** The mail that a Message-ID names; empty when it was not made here. */
    public Optional<String> read(String messageId) {
        Matcher id = ID.matcher(messageId);
        return id.matches()
                ? signed.read(id.group(1))
                        .filter(words -> words.size() == 2 && words.getFirst().equals(KIND))
                        .map(List::getLast)
                : Optional.empty();
    }
}
