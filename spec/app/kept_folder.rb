# frozen_string_literal: true

require 'find'

# A folder that examples may spoil, put back from a copy: only what was touched
# is copied again. A file counts as touched when its inode, size or change time
# is another; the change time cannot be set back.
class KeptFolder
  def initialize(kept, folder)
    @kept = kept
    @folder = folder
    @known = nil
  end

  def put_back
    @known ? mend : begin_anew
    @known = stamps
  end

  private

  def begin_anew
    FileUtils.rm_rf(@folder)
    copy(@kept, @folder)
  end

  def mend
    now = stamps
    touched = now.keys.reject { |path| now[path] == @known[path] }
    FileUtils.rm_rf(touched.map { |path| File.join(@folder, path) })
    # Folders come before what lies in them; what came with its folder is there again.
    ((@known.keys - now.keys) | (touched & @known.keys)).sort.each do |path|
      copy(File.join(@kept, path), File.join(@folder, path)) unless File.exist?(File.join(@folder, path))
    end
  end

  # A folder counts by what is in it: its own times change when it is put back.
  def stamps
    Find.find(@folder).to_h do |path|
      stat = File.lstat(path)
      [path.delete_prefix("#{@folder}/"), stat.directory? ? :folder : [stat.ino, stat.size, stat.ctime.to_r]]
    end
  end

  def copy(from, to) = Evrel::Linux::Spawn.run('cp', '-a', '--sparse=always', from, to) || raise("#{from} was not copied")
end
