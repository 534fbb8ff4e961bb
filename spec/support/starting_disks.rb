# frozen_string_literal: true

require_relative '../../demo/starting_disk'

# A disk that really starts, made once for the whole run.
module StartingDisks
  IDS = { disk: '11111111-1111-4111-8111-111111111111', esp: '22222222-2222-4222-8222-222222222222',
          system: '33333333-3333-4333-8333-333333333333', recovery: '44444444-4444-4444-8444-444444444444',
          system_uuid: '55555555-5555-4555-8555-555555555555', recovery_uuid: '66666666-6666-4666-8666-666666666666' }.freeze
  FILES = File.expand_path('../../var/cache/start-files', __dir__)

  def self.master
    Masters.of('starting', by: __FILE__) do |path|
      Evrel::Disk::File.create(path, 3 * (1024**3))
      Demo::StartingDisk.new(path, host: 'TKT-09', title: 'Quay', start_files: FILES, ids: IDS).build
    end
  end

  # @return [String] a copy that the example may spoil
  def starting_disk(name = 'starting.raw')
    run('cp', '--sparse=always', StartingDisks.master, file(name))
    file(name)
  end

  # The start-up part, taken out, changed by the block through mtools, and put back.
  def change_startup(disk)
    volume = file('startup')
    run('dd', "if=#{disk}", "of=#{volume}", 'bs=1M', 'skip=1', 'count=512', 'conv=sparse', 'status=none')
    yield volume
    run('dd', "if=#{volume}", "of=#{disk}", 'bs=1M', 'seek=1', 'conv=notrunc', 'status=none')
  end
end

RSpec.configure { |config| config.include StartingDisks }
