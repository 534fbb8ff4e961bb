# frozen_string_literal: true

# What sources bring to a layout. Asking volumes how small they can become takes
# a moment, and what has an identity never changes: the last ones are kept.
module LayoutSources
  KEPT = 8
  CACHE = {} # rubocop:disable Style/MutableConstant -- uid → what is known of it
  LOCK = Mutex.new

  # references: [file, identity] of each file that names a part by its identity
  Known = Struct.new(:source, :references, keyword_init: true)

  module_function

  # @param from [Restorable]
  # @return [Known]
  # @raise [Evrel::Error]
  def of(from)
    # Not within the lock: a slow shelf keeps nobody else waiting.
    found = LOCK.synchronize { CACHE[from.uid] } || SourceAccess.open(from) { |opened| read(opened) }
    LOCK.synchronize do
      CACHE.delete(from.uid) # the latest comes last
      CACHE[from.uid] = found
      CACHE.shift if CACHE.size > KEPT
    end
    found
  end

  def read(opened)
    source = Evrel::Layout::Source.of(opened)
    identities = source.parts.map { |part| part.guid.to_s.downcase }.reject(&:empty?)
    references = source.parts.flat_map do |part|
      Evrel::Layout::References.new(Evrel::Disk::Window.new(opened.disk, part.start, part.size)).named(identities, source.table)
    end
    Known.new(source:, references:)
  end
end
