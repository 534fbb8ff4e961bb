# frozen_string_literal: true

# A small disk with two parts, its image and its plan: for what is written
# hundreds of times.
module TinyDisk
  SIZE = 40 * Disks::MIB

  # @return [Array(Evrel::Image::Native, Evrel::Layout::Plan)] the same plan for every disk of that size
  def tiny
    @tiny ||= begin
      path = made_once('tiny') { |made| make_tiny(made) }
      image = Evrel::Image.open(captured(path, 'tiny-image'))
      plan = open_disk(sparse('planned', SIZE)) { |disk| Evrel::Layout.as_in_image(image, disk) }
      [image, plan]
    end
  end

  # A disk that holds other things.
  def used_tiny(name, seed)
    sparse(name, SIZE).tap do |path|
      open_disk(path, writable: true) { |disk| [0, 5, 20, 38].each { |at| disk.write(at * Disks::MIB, Random.new(seed).bytes(Disks::MIB)) } }
    end
  end

  # Writes the image onto a disk.
  # @yieldparam disk [Evrel::Disk] and gives what is written to
  def write_tiny(path, journal: Evrel::Restore::Journal::None.new, **options, &progress)
    image, plan = tiny
    wrap = options.delete(:wrap) || ->(disk) { disk }
    open_disk(path, writable: true) do |disk|
      Evrel::Restore::Engine.new(image:, target: wrap.call(disk), plan:, journal:, waits: [0.0, 0.0], **options).run(&progress)
    end
  end

  private

  def make_tiny(name)
    path = partitioned(name, SIZE, "label: gpt\nsize=16M, type=U\nsize=20M, type=L\n")
    copy_in(fat("#{name}-startup", 16 * Disks::MIB, 16), path, Disks::MIB)
    run('mke2fs', '-q', '-F', '-t', 'ext4', '-E', "offset=#{17 * Disks::MIB}", '-d', tree, path, '20M')
  end
end
