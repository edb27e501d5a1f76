package dastur.connectors;

import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Base64;
import java.util.Comparator;
import java.util.List;
import java.util.function.Consumer;
import org.jspecify.annotations.Nullable;

/**
 * Takes a secret out of what is heard bit by bit, in the forms in which it is sent around: as it is, in base64, in an address,
 * and in JSON (M7). Its end is held back until no secret can begin there any more.
 */
final class Scrubbing {
    private static final String GONE = "•••";

    private final List<String> forms;
    private final int heldBack;
    private final Consumer<String> to;
    private final StringBuilder kept = new StringBuilder();

    /** @param secret null for none */
    Scrubbing(@Nullable String secret, Consumer<String> to) {
        this.forms = forms(secret);
        this.heldBack = forms.stream().mapToInt(String::length).max().orElse(1) - 1;
        this.to = to;
    }

    private static List<String> forms(@Nullable String secret) {
        List<String> forms = new ArrayList<>();
        if (secret != null && !secret.isBlank()) {
            String plain = secret.strip();
            byte[] bytes = plain.getBytes(StandardCharsets.UTF_8);
            forms.add(secret);
            forms.add(plain);
            forms.add(Base64.getEncoder().encodeToString(bytes));
            forms.add(Base64.getUrlEncoder().withoutPadding().encodeToString(bytes));
            forms.add(URLEncoder.encode(plain, StandardCharsets.UTF_8));
            forms.add(plain.replace("\\", "\\\\").replace("\"", "\\\"").replace("\n", "\\n"));
        }
        return forms.stream()
                .distinct()
                .sorted(Comparator.comparingInt(String::length).reversed())
                .toList();
    }

    /** A whole text without the secret. */
    static String whole(@Nullable String secret, String text) {
        return without(forms(secret), text);
    }

    private static String without(List<String> forms, String text) {
        String clean = text;
        for (String form : forms) {
            clean = clean.replace(form, GONE);
        }
        return clean;
    }

    void heard(String text) {
        kept.append(text);
        String clean = without(forms, kept.toString());
        int ready = clean.length() - heldBack;
        if (ready > 0 && Character.isHighSurrogate(clean.charAt(ready - 1))) {
            ready--;
        }
        if (ready > 0) {
            kept.setLength(0);
            kept.append(clean, ready, clean.length());
            to.accept(clean.substring(0, ready));
        }
    }

    /** Nothing more comes. */
    void end() {
        if (!kept.isEmpty()) {
            to.accept(without(forms, kept.toString()));
            kept.setLength(0);
        }
    }
}
