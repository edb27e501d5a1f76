package dastur.core.notation;

import java.util.Collection;
import java.util.Comparator;
import java.util.Locale;
import org.jspecify.annotations.Nullable;

/** Finds the known word that comes nearest to a mistyped one. */
final class Near {
    private Near() {}

    static @Nullable String to(String typed, Collection<String> known) {
        String wanted = typed.toLowerCase(Locale.ROOT);
        int most = Math.max(1, typed.length() / 3);
        return known.stream()
                .filter(k -> distance(wanted, k.toLowerCase(Locale.ROOT)) <= most)
                .min(Comparator.comparingInt((String k) -> distance(wanted, k.toLowerCase(Locale.ROOT)))
                        .thenComparing(Comparator.naturalOrder()))
                .orElse(null);
    }

    /** Insertions, deletions, replacements and swaps of neighbours (optimal string alignment). */
    static int distance(String a, String b) {
        int[][] d = new int[a.length() + 1][b.length() + 1];
        for (int i = 0; i <= a.length(); i++) {
            for (int j = 0; j <= b.length(); j++) {
                if (i == 0 || j == 0) {
                    d[i][j] = i + j;
                    continue;
                }
                int replaced = d[i - 1][j - 1] + (a.charAt(i - 1) == b.charAt(j - 1) ? 0 : 1);
                d[i][j] = Math.min(replaced, Math.min(d[i - 1][j], d[i][j - 1]) + 1);
                boolean swapped =
                        i > 1 && j > 1 && a.charAt(i - 1) == b.charAt(j - 2) && a.charAt(i - 2) == b.charAt(j - 1);
                if (swapped) {
                    d[i][j] = Math.min(d[i][j], d[i - 2][j - 2] + 1);
                }
            }
        }
        return d[a.length()][b.length()];
    }
}
