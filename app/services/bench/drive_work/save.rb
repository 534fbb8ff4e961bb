# frozen_string_literal: true

module DriveWork
  # Saves files of a drive to a shelf before it is overwritten.
  class Save < Base
    def run
      FileUtils.mkdir_p(File.dirname(path))
      FileUtils.rm_f(["#{path}.tar.zst", "#{path}.tar.zst.part", "#{path}.json"]) if params['again']
      since = params['since'] && Time.iso8601(params['since'])
      wanted = params.fetch('wanted').transform_keys(&:to_i)
      result = reading do |disk|
        Evrel::Archive::Saved.new(disk, wanted, path, since:).run { |bytes| yield({ done: bytes, total: params['bytes'] }) }
      end
      result.to_h.merge(archive: within(result.archive), index_file: within(result.index_file))
    end

    private

    # @return [String] without its ending
    def path = @path ||= Evrel::Linux::Beneath.path(@task.shelf.path, params.fetch('name'))

    def within(file) = file.delete_prefix("#{@task.shelf.path}/")
  end
end
