package dastur.connectors;

import java.net.InetAddress;
import java.net.UnknownHostException;
import java.net.spi.InetAddressResolver;
import java.net.spi.InetAddressResolverProvider;
import java.time.Duration;
import java.util.List;
import java.util.concurrent.Callable;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.TimeoutException;
import java.util.stream.Stream;

/** Looks names up as the platform does, on threads apart ({@link Carriers}), and leaves out of guarded ones what they may not lead to. Found by the platform as a service. */
public final class OutwardNames extends InetAddressResolverProvider {
    private static final Duration LONGEST = Duration.ofSeconds(30);

    @Override
    public InetAddressResolver get(Configuration configuration) {
        return new Guarding(configuration.builtinResolver());
    }

    @Override
    public String name() {
        return "the outward guard";
    }

    record Guarding(InetAddressResolver platform) implements InetAddressResolver {
        @Override
        public Stream<InetAddress> lookupByName(String host, LookupPolicy policy) throws UnknownHostException {
            List<InetAddress> found =
                    apart(() -> platform.lookupByName(host, policy).toList(), host);
            List<InetAddress> permitted =
                    found.stream().filter(a -> Outward.mayLead(host, a)).toList();
            if (permitted.isEmpty() && !found.isEmpty()) {
                throw new UnknownHostException(host + " leads only to addresses that it may not lead to");
            }
            return permitted.stream();
        }

        @Override
        public String lookupByAddress(byte[] address) throws UnknownHostException {
            return apart(() -> platform.lookupByAddress(address), "the address");
        }

        /** A name server that does not answer is waited for in native code: it delays who asked, and nobody else. */
        private static <T> T apart(Callable<T> lookup, String what) throws UnknownHostException {
            try {
                return Carriers.await(lookup, LONGEST);
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
                throw new UnknownHostException(what + " was being looked up, and nobody waits for it any more");
            } catch (TimeoutException e) {
                throw new UnknownHostException(
                        what + " could not be looked up within " + LONGEST.toSeconds() + " seconds");
            } catch (ExecutionException e) {
                if (e.getCause() instanceof UnknownHostException unknown) {
                    throw unknown;
                }
                throw new IllegalStateException(e.getCause());
            }
        }
    }
}
