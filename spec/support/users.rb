# frozen_string_literal: true

# Only root can be somebody else.
module Users
  # Runs a block in a process of another user.
  # @param uid [Integer] of a user who may do nothing here
  # @return [String] what the block returned, or its error
  def as_user(uid)
    read, write = IO.pipe
    Process.wait(fork do
      Process::Sys.setgid(uid)
      Process::Sys.setuid(uid)
      write.write(yield.to_s)
    rescue StandardError => e
      write.write("#{e.class}: #{e.message}")
    ensure
      write.close
      exit!
    end)
    write.close
    read.read
  end
end
