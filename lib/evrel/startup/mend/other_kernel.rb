# frozen_string_literal: true

module Evrel
  module Startup
    module Mend
      # The loader starts another kernel that is installed, in the place of one
      # that is missing or damaged, or lacks its initial ramdisk.
      class OtherKernel
        include Mend

        # about: number (of the part) and path of the file that tells the loader; version; files as in OtherKernels::Other
        # @return [Draft]
        # @raise [Refused] where that file does not name what is to be replaced
        def draft
          about = @context.about
          path = about.fetch(:path)
          text = @context.places.text(@context.part, path, GrubScript::LARGEST)
          changed = about.fetch(:files).reduce(text) { |now, (old, new)| now.gsub(named(old)) { new.delete_prefix('/') } }
          raise Refused.new("#{path} does not name it in words that can be changed", where: path) if changed == text

          old, new = about[:files].transpose
          draft_of(edited(@context.part) { |editor| editor.put(path, changed) },
                   title: "Start #{about[:version]} instead", before: "#{path} names #{Units.list(old)}", after: Units.list(new))
        end

        private

        def named(path) = %r{(?<![^\s"'/)])#{Regexp.escape(path.delete_prefix('/'))}(?![^\s"'])}
      end
    end
  end
end
