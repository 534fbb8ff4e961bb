# frozen_string_literal: true

module Api
  # Keeping images: giving them up, bringing them to other shelves, what is
  # written on them, and labels.
  module Keeping
    def self.registered(app)
      app.helpers do
        def image_keeper(of = image) = ImageKeeper.new(of, technician)

        def task_of_image
          @task_of_image ||= ImageTask.find(params['id'])
        end

        def image_task_answer(task)
          status 202
          answer(ImageTaskView.of(task.reload))
        end
      end
      giving_up(app)
      bringing(app)

      app.patch '/images/:id' do
        image_keeper.change(body_params)
        answer(ImageView.of(image.reload))
      end

      app.get '/shelves/:id/label.pdf' do
        raise Evrel::Refused.new('only a shelf on a drive has a label', where: shelf.name) unless shelf.drive

        content_type 'application/pdf'
        ShelfLabel.new(shelf).render
      end
    end

    def self.giving_up(app)
      app.post '/images/:id/give-up' do
        GivingUp.new(image, technician).give_up(body_params['because'])
        answer(ImageView.of(image))
      end

      # Several at once: all of them, or none.
      app.post '/images-give-up' do
        images = Image.there.where(id: body_params['ids']).order(:taken_at).to_a
        Image.transaction { images.each { |one| GivingUp.new(one, technician).give_up(body_params['because']) } }
        answer({ given_up: images.size, bytes: images.sum { |one| one.file_bytes.to_i } })
      end

      app.delete '/images/:id/give-up' do
        GivingUp.new(image, technician).take_back
        answer(ImageView.of(image))
      end

      # Now, and not when its days in the bin are over.
      app.delete '/images/:id/files' do
        Bin.remove(image, by: technician)
        answer(ImageView.of(image))
      end
    end

    def self.bringing(app)
      app.post '/images/:id/bring' do
        image_task_answer(image_keeper.bring(body_params['kind'], Shelf.find(body_params['shelf_id'])))
      end

      # "wanted": whether the names of the files in a locked one are in the search.
      app.put '/images/:id/names' do
        image_keeper.names(body_params['wanted'] == true)
        answer(ImageView.of(image.reload))
      end

      app.post('/images/:id/merge') { image_task_answer(image_keeper.merge) }

      app.post '/image-tasks/:id/stop' do
        image_keeper(task_of_image.image).stop(task_of_image)
        image_task_answer(task_of_image)
      end

      app.post('/image-tasks/:id/go-on') { image_task_answer(image_keeper(task_of_image.image).go_on(task_of_image)) }
    end
    private_class_method :giving_up, :bringing
  end
end
