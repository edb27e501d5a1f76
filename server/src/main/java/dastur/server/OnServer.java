package dastur.server;

import dastur.store.Database;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Option;

/** Options that say on which database server records are kept. */
final class OnServer {
    static final String SECRET = "database";

    @Option(
            names = "--database",
            paramLabel = "URL",
            description =
                    "A PostgreSQL database that several nodes may share, as jdbc:postgresql://HOST/NAME; the secret 'database' is its password. Without it, a file in the data folder.")
    private @Nullable String url;

    @Option(names = "--database-user", defaultValue = "dastur", description = "Its user (${DEFAULT-VALUE}).")
    private String user;

    /** The server; null where none is named. */
    Database.@Nullable Server server(DataFolder folder) {
        if (url == null) {
            return null;
        }
        if (!url.startsWith("jdbc:postgresql:")) {
            throw new IllegalArgumentException("A database's address begins with jdbc:postgresql:, such as"
                    + " jdbc:postgresql://localhost/dastur.");
        }
        if (url.toLowerCase(java.util.Locale.ROOT).contains("password=")) {
            throw new IllegalArgumentException("The database's password is not given on the command line, where others"
                    + " can read it: write it as '" + SECRET + "' into secrets.properties.");
        }
        return new Database.Server(url, user, folder.secret(SECRET).orElse(""));
    }
}
