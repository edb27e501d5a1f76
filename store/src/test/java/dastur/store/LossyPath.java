package dastur.store;

import java.io.IOException;
import java.nio.ByteBuffer;
import java.nio.channels.FileChannel;
import java.nio.channels.FileLock;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import java.util.function.Consumer;
import org.h2.store.fs.FileBase;
import org.h2.store.fs.FilePathWrapper;

/**
 * A file system that knows what a disk would hold if the power failed at this moment: what was forced for certain, and of
 * what was written since, any part.
 */
public final class LossyPath extends FilePathWrapper {
    static final String SCHEME = "lossy";

    /** What was done to a file and not forced yet. @param bytes written there; null where the file was cut to this size */
    record Pending(long position, byte[] bytes) {}

    /** A moment. @param disk what was forced */
    record Moment(byte[] disk, List<Pending> pending) {
        /** What the disk holds with some of what was pending. */
        byte[] with(List<Pending> kept) {
            byte[] image = disk;
            for (Pending p : kept) {
                image = apply(image, p);
            }
            return image;
        }
    }

    private static final Map<String, Consumer<Moment>> WATCHED = new ConcurrentHashMap<>();

    /** Has somebody look at each moment right after something was written to a file. */
    static void watch(String name, Consumer<Moment> watcher) {
        WATCHED.put(name, watcher);
    }

    private static byte[] apply(byte[] image, Pending p) {
        if (p.bytes() == null) {
            return Arrays.copyOf(image, (int) p.position());
        }
        int end = (int) p.position() + p.bytes().length;
        byte[] next = Arrays.copyOf(image, Math.max(image.length, end));
        System.arraycopy(p.bytes(), 0, next, (int) p.position(), p.bytes().length);
        return next;
    }

    @Override
    public String getScheme() {
        return SCHEME;
    }

    @Override
    public FileChannel open(String mode) throws IOException {
        return new Channel(super.open(mode), WATCHED.getOrDefault(unwrap().toString(), m -> {}));
    }

    private static final class Channel extends FileBase {
        private final FileChannel file;
        private final Consumer<Moment> watcher;
        private final List<Pending> pending = new ArrayList<>();
        private byte[] disk = new byte[0];

        Channel(FileChannel file, Consumer<Moment> watcher) {
            this.file = file;
            this.watcher = watcher;
        }

        private synchronized void did(Pending p) {
            pending.add(p);
            watcher.accept(new Moment(disk, List.copyOf(pending)));
        }

        @Override
        public int write(ByteBuffer from, long position) throws IOException {
            byte[] bytes = new byte[from.remaining()];
            from.duplicate().get(bytes);
            int written = file.write(from, position);
            did(new Pending(position, Arrays.copyOf(bytes, written)));
            return written;
        }

        @Override
        public int write(ByteBuffer from) throws IOException {
            throw new IOException("written at a position only");
        }

        @Override
        public FileChannel truncate(long size) throws IOException {
            file.truncate(size);
            did(new Pending(size, null));
            return this;
        }

        @Override
        public synchronized void force(boolean metaData) throws IOException {
            file.force(metaData);
            pending.forEach(p -> disk = apply(disk, p));
            pending.clear();
        }

        @Override
        public int read(ByteBuffer to, long position) throws IOException {
            return file.read(to, position);
        }

        @Override
        public int read(ByteBuffer to) throws IOException {
            return file.read(to);
        }

        @Override
        public long position() throws IOException {
            return file.position();
        }

        @Override
        public FileChannel position(long position) throws IOException {
            file.position(position);
            return this;
        }

        @Override
        public long size() throws IOException {
            return file.size();
        }

        @Override
        public FileLock tryLock(long position, long size, boolean shared) throws IOException {
            return file.tryLock(position, size, shared);
        }

        @Override
        protected void implCloseChannel() throws IOException {
            file.close();
        }
    }
}
